import { Migration } from '@mikro-orm/migrations';

export class Migration20261126035512 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`note\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`student\` text not null, \`account\` integer not null, \`at\` bigint not null, \`text\` text not null);`,
    );
    this.addSql(
      `create index \`note_course_account_student_index\` on \`note\` (\`course\`, \`account\`, \`student\`);`,
    );

    this.addSql(
      `create table \`pin\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`student\` text not null, \`account\` integer not null, \`at\` bigint not null);`,
    );
    this.addSql(
      `create unique index \`pin_course_account_student_unique\` on \`pin\` (\`course\`, \`account\`, \`student\`);`,
    );

    this.addSql(
      `create table \`plain_mail\` (\`id\` integer not null primary key autoincrement, \`kind\` text not null, \`course\` integer not null, \`reply\` integer null, \`by\` text not null, \`at\` bigint not null, \`to_name\` text not null, \`to_address\` text not null, \`subject\` text not null, \`text\` text not null, \`message_id\` text not null, \`in_reply_to\` text null, \`forward\` text null, \`forward_at\` bigint null, \`attempts\` integer not null default 0, \`claimed_by\` text null);`,
    );
    this.addSql(`create index \`plain_mail_reply_index\` on \`plain_mail\` (\`reply\`);`);
    this.addSql(
      `create index \`plain_mail_forward_forward_at_index\` on \`plain_mail\` (\`forward\`, \`forward_at\`);`,
    );

    this.addSql(
      `create table \`lookout_view\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`name\` text not null, \`view\` json not null, \`by\` text not null, \`at\` bigint not null);`,
    );
    this.addSql(`create unique index \`lookout_view_course_name_unique\` on \`lookout_view\` (\`course\`, \`name\`);`);

    this.addSql(`alter table \`account\` add column \`digest\` text not null default 'off';`);
    this.addSql(`alter table \`account\` add column \`digest_at\` bigint null;`);

    this.addSql(`alter table \`reply\` add column \`settled_at\` bigint null;`);
    this.addSql(`alter table \`reply\` add column \`settled_by\` text null;`);
    this.addSql(`create index \`reply_course_student_kind_index\` on \`reply\` (\`course\`, \`student\`, \`kind\`);`);
  }
}
