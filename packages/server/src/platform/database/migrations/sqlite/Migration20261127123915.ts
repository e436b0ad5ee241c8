import { Migration } from '@mikro-orm/migrations';

export class Migration20261127123915 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create index \`nudge_latest_index\` on \`nudge\` (\`course\`, coalesce(\`last_at\`, \`round_at\`), \`id\`);`);
  }

}
