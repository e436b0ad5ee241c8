import { Migration } from '@mikro-orm/migrations';

export class Migration20261202175604 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create index \`nudge_course_id_index\` on \`nudge\` (\`course\`, \`id\`);`);
  }

}
