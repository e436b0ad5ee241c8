import { Migration } from '@mikro-orm/migrations';

export class Migration20261125181921 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create index \`nudge_course_student_rule_spell_start_index\` on \`nudge\` (\`course\`, \`student\`, \`rule\`, \`spell_start\`);`,
    );
  }
}
