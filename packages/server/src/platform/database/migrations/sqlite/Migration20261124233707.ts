import { Migration } from '@mikro-orm/migrations';

export class Migration20261124233707 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`access\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`course\` integer not null, \`role\` text not null);`,
    );
    this.addSql(`create index \`access_account_index\` on \`access\` (\`account\`);`);
    this.addSql(`create unique index \`access_account_course_unique\` on \`access\` (\`account\`, \`course\`);`);

    this.addSql(
      `create table \`account\` (\`id\` integer not null primary key autoincrement, \`email\` text not null, \`name\` text not null, \`password_hash\` text not null, \`created_at\` bigint not null);`,
    );
    this.addSql(`create unique index \`account_email_unique\` on \`account\` (\`email\`);`);

    this.addSql(
      `create table \`attempt\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`message\` integer not null, \`nudge\` integer not null, \`at\` bigint not null, \`outcome\` text not null, \`response\` text not null, \`message_id\` text not null, \`recipient_name\` text not null, \`address\` text not null, \`from_address\` text not null, \`reply_to\` text not null, \`subject\` text not null, \`body\` text not null, \`html\` text not null, \`evidence\` json not null);`,
    );
    this.addSql(`create index \`attempt_message_index\` on \`attempt\` (\`message\`);`);
    this.addSql(`create index \`attempt_nudge_index\` on \`attempt\` (\`nudge\`);`);
    this.addSql(`create index \`attempt_course_at_index\` on \`attempt\` (\`course\`, \`at\`);`);

    this.addSql(
      `create table \`course\` (\`id\` integer not null primary key autoincrement, \`code\` text not null, \`title\` text not null, \`time_zone\` text not null, \`start\` text not null, \`end\` text not null, \`breaks\` json not null, \`group_weights\` json null, \`marks\` json not null, \`settings\` json not null, \`sender\` json not null, \`token_hash\` text not null, \`version\` integer not null default 1);`,
    );
    this.addSql(`create unique index \`course_token_hash_unique\` on \`course\` (\`token_hash\`);`);

    this.addSql(
      `create table \`activity_event\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`event_id\` text not null, \`person\` text not null, \`kind\` text not null, \`item\` text null, \`at\` bigint not null);`,
    );
    this.addSql(`create index \`activity_event_course_id_index\` on \`activity_event\` (\`course\`, \`id\`);`);
    this.addSql(
      `create unique index \`activity_event_course_event_id_unique\` on \`activity_event\` (\`course\`, \`event_id\`);`,
    );

    this.addSql(
      `create table \`grade\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`event_id\` text not null, \`person\` text not null, \`item\` text not null, \`criterion\` text null, \`points\` double not null, \`at\` bigint not null);`,
    );
    this.addSql(`create index \`grade_course_id_index\` on \`grade\` (\`course\`, \`id\`);`);
    this.addSql(`create unique index \`grade_course_event_id_unique\` on \`grade\` (\`course\`, \`event_id\`);`);

    this.addSql(
      `create table \`item\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`key\` text not null, \`position\` integer not null, \`title\` text not null, \`kind\` text not null, \`item_group\` text null, \`points\` double null, \`opens_at\` bigint null, \`due_at\` bigint null, \`topics\` json not null, \`excused\` json not null, \`extensions\` json not null);`,
    );
    this.addSql(`create unique index \`item_course_key_unique\` on \`item\` (\`course\`, \`key\`);`);

    this.addSql(
      `create table \`message\` (\`id\` integer not null primary key autoincrement, \`nudge\` integer not null, \`course\` integer not null, \`kind\` text not null, \`name\` text not null, \`address\` text not null, \`state\` text not null, \`send_at\` bigint not null, \`attempts\` integer not null default 0, \`claimed_by\` text null, \`settled_at\` bigint null);`,
    );
    this.addSql(`create index \`message_nudge_index\` on \`message\` (\`nudge\`);`);
    this.addSql(`create index \`message_state_send_at_index\` on \`message\` (\`state\`, \`send_at\`);`);

    this.addSql(
      `create table \`nudge\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`idempotency_key\` text not null, \`rule\` text null, \`rule_version\` integer not null, \`student\` text not null, \`round_at\` bigint not null, \`step\` integer not null, \`spell_start\` bigint not null, \`state\` text not null, \`reason\` text null, \`to_student\` integer not null, \`wording\` text not null, \`evidence\` json not null);`,
    );
    this.addSql(`create unique index \`nudge_idempotency_key_unique\` on \`nudge\` (\`idempotency_key\`);`);
    this.addSql(`create index \`nudge_course_round_at_index\` on \`nudge\` (\`course\`, \`round_at\`);`);
    this.addSql(`create index \`nudge_course_student_index\` on \`nudge\` (\`course\`, \`student\`);`);

    this.addSql(
      `create table \`person\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`key\` text not null, \`position\` integer not null, \`first_name\` text not null, \`last_name\` text not null, \`email\` text null, \`role\` text not null, \`section\` text null, \`active\` integer not null, \`enrolled_at\` bigint not null, \`paused\` integer not null default false, \`contacts\` json not null, \`fields\` json not null);`,
    );
    this.addSql(`create unique index \`person_course_key_unique\` on \`person\` (\`course\`, \`key\`);`);

    this.addSql(
      `create table \`refusal\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`rule\` text not null, \`student\` text not null, \`spell_start\` bigint not null, \`step\` integer not null, \`reason\` text not null, \`first_round\` bigint not null, \`last_round\` bigint not null, \`rounds\` integer not null, \`evidence\` json not null);`,
    );
    this.addSql(
      `create unique index \`refusal_course_rule_student_spell_start_step_reason_unique\` on \`refusal\` (\`course\`, \`rule\`, \`student\`, \`spell_start\`, \`step\`, \`reason\`);`,
    );

    this.addSql(
      `create table \`round\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`at\` bigint not null, \`trigger\` text not null, \`claim\` text not null, \`results\` json not null);`,
    );
    this.addSql(`create unique index \`round_claim_unique\` on \`round\` (\`claim\`);`);
    this.addSql(`create index \`round_course_at_index\` on \`round\` (\`course\`, \`at\`);`);

    this.addSql(
      `create table \`rule\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`key\` text not null, \`position\` integer not null, \`status\` text not null, \`version\` integer not null, \`format\` integer not null default 1, \`document\` json not null, \`next_round_at\` bigint null, \`changed_at\` bigint not null);`,
    );
    this.addSql(`create index \`rule_next_round_at_index\` on \`rule\` (\`next_round_at\`);`);
    this.addSql(`create unique index \`rule_course_key_unique\` on \`rule\` (\`course\`, \`key\`);`);

    this.addSql(
      `create table \`rule_version\` (\`id\` integer not null primary key autoincrement, \`rule\` integer not null, \`version\` integer not null, \`document\` json not null, \`saved_at\` bigint not null, \`saved_by\` integer null);`,
    );
    this.addSql(
      `create unique index \`rule_version_rule_version_unique\` on \`rule_version\` (\`rule\`, \`version\`);`,
    );

    this.addSql(
      `create table \`session\` (\`id\` text not null, \`data\` text not null, \`expires_at\` bigint not null, primary key (\`id\`));`,
    );
    this.addSql(`create index \`session_expires_at_index\` on \`session\` (\`expires_at\`);`);

    this.addSql(
      `create table \`wording\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`key\` text not null, \`name\` text not null, \`purpose\` text not null, \`subject\` text not null, \`body\` text not null, \`version\` integer not null default 1);`,
    );
    this.addSql(`create unique index \`wording_course_key_unique\` on \`wording\` (\`course\`, \`key\`);`);

    this.addSql(`create table \`worker\` (\`id\` text not null, \`alive_at\` bigint not null, primary key (\`id\`));`);
  }
}
