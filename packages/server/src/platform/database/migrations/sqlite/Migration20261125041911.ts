import { Migration } from '@mikro-orm/migrations';

export class Migration20261125041911 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`reply\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`nudge\` integer not null, \`student\` text null, \`kind\` text not null, \`at\` bigint not null, \`message_id\` text not null, \`from_name\` text not null, \`from_address\` text not null, \`subject\` text not null, \`text\` text not null, \`forward\` text null, \`forward_at\` bigint null, \`attempts\` integer not null default 0);`,
    );
    this.addSql(`create index \`reply_nudge_index\` on \`reply\` (\`nudge\`);`);
    this.addSql(`create index \`reply_course_at_index\` on \`reply\` (\`course\`, \`at\`);`);
    this.addSql(`create unique index \`reply_course_message_id_unique\` on \`reply\` (\`course\`, \`message_id\`);`);

    this.addSql(`alter table \`person\` add column \`bounced_at\` bigint null;`);
  }
}
