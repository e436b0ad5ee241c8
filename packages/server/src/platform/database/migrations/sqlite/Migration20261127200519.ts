import { Migration } from '@mikro-orm/migrations';

export class Migration20261127200519 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`attempt__temp_alter\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`message\` integer not null, \`nudge\` integer null, \`at\` bigint not null, \`outcome\` text not null, \`response\` text not null, \`message_id\` text not null, \`recipient_name\` text not null, \`address\` text not null, \`from_address\` text not null, \`reply_to\` text not null, \`subject\` text not null, \`body\` text not null, \`html\` text not null, \`files\` json not null default '[]', \`evidence\` json not null);`);
    this.addSql(`insert into \`attempt__temp_alter\` select \`id\`, \`course\`, \`message\`, \`nudge\`, \`at\`, \`outcome\`, \`response\`, \`message_id\`, \`recipient_name\`, \`address\`, \`from_address\`, \`reply_to\`, \`subject\`, \`body\`, \`html\`, \`files\`, \`evidence\` from \`attempt\`;`);
    this.addSql(`drop table \`attempt\`;`);
    this.addSql(`alter table \`attempt__temp_alter\` rename to \`attempt\`;`);
    this.addSql(`create index \`attempt_message_index\` on \`attempt\` (\`message\`);`);
    this.addSql(`create index \`attempt_nudge_index\` on \`attempt\` (\`nudge\`);`);
    this.addSql(`create index \`attempt_message_id_index\` on \`attempt\` (\`message_id\`);`);
    this.addSql(`create index \`attempt_course_at_index\` on \`attempt\` (\`course\`, \`at\`);`);
    // A message may be no nudge from here on, and every mail waits in this one table.
    this.addSql(`create table \`message__temp_alter\` (\`id\` integer not null primary key autoincrement, \`nudge\` integer null, \`plain_mail\` integer null, \`course\` integer not null, \`kind\` text not null, \`lead\` integer not null default false, \`reader\` text null, \`name\` text not null, \`address\` text not null, \`state\` text not null, \`held_for\` text null, \`trouble\` text null, \`send_at\` bigint not null, \`attempts\` integer not null default 0, \`variant\` integer null, \`claimed_by\` text null, \`settled_at\` bigint null, \`sending\` integer null, \`bundle\` text null);`);
    this.addSql(`insert into \`message__temp_alter\` select \`id\`, \`nudge\`, null, \`course\`, \`kind\`, \`lead\`, \`reader\`, \`name\`, \`address\`, \`state\`, \`held_for\`, \`trouble\`, \`send_at\`, \`attempts\`, \`variant\`, \`claimed_by\`, \`settled_at\`, \`sending\`, \`bundle\` from \`message\`;`);
    this.addSql(`drop table \`message\`;`);
    this.addSql(`alter table \`message__temp_alter\` rename to \`message\`;`);
    this.addSql(`create index \`message_nudge_index\` on \`message\` (\`nudge\`);`);
    this.addSql(`create index \`message_plain_mail_index\` on \`message\` (\`plain_mail\`);`);
    this.addSql(`create index \`message_sending_index\` on \`message\` (\`sending\`);`);
    this.addSql(`create index \`message_bundle_index\` on \`message\` (\`bundle\`);`);
    this.addSql(`create index \`message_state_course_send_at_index\` on \`message\` (\`state\`, \`course\`, \`send_at\`);`);
    this.addSql(`create index \`message_course_send_at_index\` on \`message\` (\`course\`, \`send_at\`);`);
    this.addSql(`create index \`message_course_settled_at_index\` on \`message\` (\`course\`, \`settled_at\`);`);
    this.addSql(`insert into \`plain_mail\` (\`kind\`, \`course\`, \`reply\`, \`nudge\`, \`by\`, \`at\`, \`to_name\`, \`to_address\`, \`subject\`, \`text\`, \`message_id\`, \`in_reply_to\`, \`forward\`, \`forward_at\`, \`attempts\`, \`claimed_by\`) select 'forward', r.\`course\`, r.\`id\`, r.\`nudge\`, '', r.\`at\`, json_extract(c.\`sender\`, '$.name'), json_extract(c.\`sender\`, '$.replyTo'), '', '', '', null, r.\`forward\`, r.\`forward_at\`, r.\`attempts\`, r.\`claimed_by\` from \`reply\` r join \`course\` c on c.\`id\` = r.\`course\` where r.\`forward\` is not null;`);
    this.addSql(`insert into \`message\` (\`plain_mail\`, \`course\`, \`kind\`, \`name\`, \`address\`, \`state\`, \`send_at\`, \`attempts\`, \`claimed_by\`, \`settled_at\`, \`sending\`) select \`id\`, \`course\`, case \`kind\` when 'answer' then 'student' else 'instructor' end, \`to_name\`, \`to_address\`, \`forward\`, coalesce(\`forward_at\`, \`at\`), \`attempts\`, \`claimed_by\`, case when \`forward\` in ('sent', 'failed', 'uncertain') then coalesce(\`forward_at\`, \`at\`) end, \`sending\` from \`plain_mail\` where \`forward\` is not null;`);

    this.addSql(`drop index \`plain_mail_forward_forward_at_index\`;`);
    this.addSql(`alter table \`plain_mail\` drop column \`to_name\`;`);
    this.addSql(`alter table \`plain_mail\` drop column \`to_address\`;`);
    this.addSql(`alter table \`plain_mail\` drop column \`forward\`;`);
    this.addSql(`alter table \`plain_mail\` drop column \`forward_at\`;`);
    this.addSql(`alter table \`plain_mail\` drop column \`attempts\`;`);
    this.addSql(`alter table \`plain_mail\` drop column \`claimed_by\`;`);
    this.addSql(`alter table \`plain_mail\` drop column \`sending\`;`);

    this.addSql(`create index \`plain_mail_nudge_kind_index\` on \`plain_mail\` (\`nudge\`, \`kind\`);`);

    this.addSql(`drop index \`reply_forward_forward_at_index\`;`);
    this.addSql(`alter table \`reply\` drop column \`forward\`;`);
    this.addSql(`alter table \`reply\` drop column \`forward_at\`;`);
    this.addSql(`alter table \`reply\` drop column \`attempts\`;`);
    this.addSql(`alter table \`reply\` drop column \`claimed_by\`;`);
  }

}
