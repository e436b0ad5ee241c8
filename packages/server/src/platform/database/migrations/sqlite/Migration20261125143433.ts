import { Migration } from '@mikro-orm/migrations';

export class Migration20261125143433 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`mail_trouble\` (\`course\` integer not null, \`trouble\` text not null, \`response\` text not null, \`since\` bigint not null, \`tries\` integer not null, \`next_try_at\` bigint not null, primary key (\`course\`));`,
    );

    this.addSql(
      `create table \`rule_round\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`rule\` text not null, \`at\` bigint not null, \`trigger\` text not null, \`claim\` text not null, \`version\` integer not null, \`matched\` integer not null default 0, \`heard\` integer not null default 0, \`held\` integer not null default 0, \`withheld\` integer not null default 0, \`withdrawn\` integer not null default 0, \`missed\` json not null default '[]');`,
    );
    this.addSql(`create unique index \`rule_round_claim_unique\` on \`rule_round\` (\`claim\`);`);
    this.addSql(`create index \`rule_round_course_at_index\` on \`rule_round\` (\`course\`, \`at\`);`);
    this.addSql(`create index \`rule_round_course_rule_at_index\` on \`rule_round\` (\`course\`, \`rule\`, \`at\`);`);

    // One row a rule in place of one list a round. A rule's rounds keep a claim of their own.
    this
      .addSql(`insert into rule_round (course, rule, at, "trigger", claim, version, matched, heard, held, withheld, withdrawn, missed)
      select r.course, json_extract(p.value, '$.rule'), r.at, r."trigger", r.claim || ' ' || json_extract(p.value, '$.rule'),
        json_extract(p.value, '$.version'), json_extract(p.value, '$.matched'), json_extract(p.value, '$.heard'),
        json_extract(p.value, '$.held'), json_extract(p.value, '$.withheld'), json_extract(p.value, '$.withdrawn'),
        coalesce(json_extract(p.value, '$.missed'), '[]')
      from round r, json_each(r.results) p order by r.id;`);
    this.addSql(`drop table if exists \`round\`;`);

    this.addSql(`alter table \`account\` add column \`wrong_passwords\` integer not null default 0;`);
    this.addSql(`alter table \`account\` add column \`locked_until\` bigint null;`);

    this.addSql(`create index \`attempt_message_id_index\` on \`attempt\` (\`message_id\`);`);

    this.addSql(`alter table \`mailbox\` add column \`set_aside\` json not null default '[]';`);

    this.addSql(`drop index \`message_state_send_at_index\`;`);

    this.addSql(`alter table \`message\` add column \`lead\` integer not null default false;`);
    this.addSql(`alter table \`message\` add column \`held_for\` text null;`);
    this.addSql(`alter table \`message\` add column \`trouble\` text null;`);
    this.addSql(
      `create index \`message_state_course_send_at_index\` on \`message\` (\`state\`, \`course\`, \`send_at\`);`,
    );
    this.addSql(`create index \`message_course_send_at_index\` on \`message\` (\`course\`, \`send_at\`);`);
    this.addSql(`create index \`message_course_settled_at_index\` on \`message\` (\`course\`, \`settled_at\`);`);

    this.addSql(`drop index \`nudge_course_student_index\`;`);

    this.addSql(`alter table \`nudge\` add column \`subject\` text null;`);
    this.addSql(`alter table \`nudge\` add column \`last_at\` bigint null;`);
    this.addSql(
      `create index \`nudge_course_student_round_at_index\` on \`nudge\` (\`course\`, \`student\`, \`round_at\`);`,
    );
    this.addSql(`create index \`nudge_course_rule_round_at_index\` on \`nudge\` (\`course\`, \`rule\`, \`round_at\`);`);
    this.addSql(
      `create index \`nudge_course_state_round_at_index\` on \`nudge\` (\`course\`, \`state\`, \`round_at\`);`,
    );

    this.addSql(`drop index \`refusal_course_rule_student_spell_start_step_reason_unique\`;`);

    this.addSql(`create index \`refusal_course_last_round_index\` on \`refusal\` (\`course\`, \`last_round\`);`);
    this.addSql(
      `create index \`refusal_course_rule_last_round_index\` on \`refusal\` (\`course\`, \`rule\`, \`last_round\`);`,
    );
    this.addSql(
      `create index \`refusal_course_student_rule_last_round_index\` on \`refusal\` (\`course\`, \`student\`, \`rule\`, \`last_round\`);`,
    );

    this.addSql(`create index \`reply_forward_forward_at_index\` on \`reply\` (\`forward\`, \`forward_at\`);`);

    this.addSql(`drop index \`rule_next_round_at_index\`;`);

    this.addSql(`create index \`rule_status_next_round_at_index\` on \`rule\` (\`status\`, \`next_round_at\`);`);

    this.addSql(`alter table \`rule_version\` add column \`status\` text not null default 'draft';`);
    this.addSql(
      `update rule_version set status = coalesce(json_extract(document, '$.status'), 'draft'), document = json_remove(document, '$.status');`,
    );
    this.addSql(`update rule set document = json_remove(document, '$.status');`);
    this.addSql(`update message set lead = true where id = (
      select m.id from message m where m.nudge = message.nudge order by case when m.kind = 'student' then 0 else 1 end, m.id limit 1);`);
    this.addSql(`update message set held_for = 'step' where state = 'held';`);
    this.addSql(`update nudge set
      last_at = (select max(a.at) from attempt a where a.nudge = nudge.id),
      subject = (select a.subject from attempt a join message m on m.id = a.message
        where a.nudge = nudge.id order by case when m.kind = 'student' then 0 else 1 end, a.id desc limit 1);`);
  }
}
