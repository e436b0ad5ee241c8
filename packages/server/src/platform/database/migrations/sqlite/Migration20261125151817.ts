import { Migration } from '@mikro-orm/migrations';

export class Migration20261125151817 extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table \`session\` add column \`account\` integer null;`);
    this.addSql(`create index \`session_account_index\` on \`session\` (\`account\`);`);
  }
}
