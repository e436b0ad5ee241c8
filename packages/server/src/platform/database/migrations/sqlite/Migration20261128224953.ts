import { Migration } from '@mikro-orm/migrations';

export class Migration20261128224953 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`export_file\` (\`id\` text not null, \`account\` integer not null, \`course\` integer not null, \`name\` text not null, \`state\` text not null, \`done\` integer not null default 0, \`total\` integer not null default 0, \`bytes\` integer not null default 0, \`trouble\` text null, \`heard_at\` bigint not null, primary key (\`id\`));`);
    this.addSql(`create index \`export_file_account_index\` on \`export_file\` (\`account\`);`);
  }

}
