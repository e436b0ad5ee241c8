import { Migration } from '@mikro-orm/migrations';

export class Migration20261202064647 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`reason\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`what\` text not null, \`of_key\` text not null, \`version\` integer null, \`by\` text not null, \`at\` bigint not null, \`words\` text not null);`);
    this.addSql(`create index \`reason_course_at_index\` on \`reason\` (\`course\`, \`at\`);`);
  }

}
