import { Migration } from '@mikro-orm/migrations';

export class Migration20261128225001 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table "access" ("id" bigserial primary key, "account" bigint not null, "course" bigint not null, "role" text not null);`);
    this.addSql(`create index "access_account_index" on "access" ("account");`);
    this.addSql(`alter table "access" add constraint "access_account_course_unique" unique ("account", "course");`);

    this.addSql(`create table "account" ("id" bigserial primary key, "email" text not null, "name" text not null, "password_hash" text not null, "reached_at" text null, "created_at" bigint not null, "digest" text not null default 'off', "digest_at" bigint null, "is_administrator" boolean not null default false, "totp" text null, "totp_used" bigint null, "send_delay" bigint not null default 10);`);
    this.addSql(`alter table "account" add constraint "account_email_unique" unique ("email");`);

    this.addSql(`create table "act" ("id" bigserial primary key, "at" bigint not null, "course" bigint null, "by" text not null, "act" text not null, "about" text not null, "from" text not null);`);
    this.addSql(`create index "act_at_index" on "act" ("at");`);
    this.addSql(`create index "act_course_at_index" on "act" ("course", "at");`);

    this.addSql(`create table "aside" ("id" bigserial primary key, "course" bigint not null, "student" text not null, "until" bigint not null, "note" text not null, "set_by" text not null, "set_at" bigint not null);`);
    this.addSql(`alter table "aside" add constraint "aside_course_student_unique" unique ("course", "student");`);

    this.addSql(`create table "attempt" ("id" bigserial primary key, "course" bigint not null, "message" bigint not null, "nudge" bigint null, "at" bigint not null, "outcome" text not null, "response" text not null, "message_id" text not null, "recipient_name" text not null, "address" text not null, "from_address" text not null, "reply_to" text not null, "subject" text not null, "body" text not null, "html" text not null, "files" text not null default '[]', "sent_with" text null, "evidence" text not null);`);
    this.addSql(`create index "attempt_message_index" on "attempt" ("message");`);
    this.addSql(`create index "attempt_nudge_index" on "attempt" ("nudge");`);
    this.addSql(`create index "attempt_message_id_index" on "attempt" ("message_id");`);
    this.addSql(`create index "attempt_course_at_index" on "attempt" ("course", "at");`);

    this.addSql(`create table "carry" ("id" bigserial primary key, "course" bigint not null, "source" bigint not null, "source_code" text not null, "source_title" text not null, "at" bigint not null, "by" text not null, "along" text not null, "ticked" text not null default '{"rules":[],"wordings":[],"sender":false}', "dismissed_at" bigint null, "undone_at" bigint null);`);
    this.addSql(`create index "carry_course_id_index" on "carry" ("course", "id");`);

    this.addSql(`create table "course_change" ("id" bigserial primary key, "course" bigint not null, "kind" text not null, "at" bigint not null, "by" text not null, "title" text not null, "changes" text not null, "events" bigint not null default 0, "grades" bigint not null default 0, "retracted" bigint not null default 0, "first_event" bigint null, "last_event" bigint null, "first_grade" bigint null, "last_grade" bigint null, "undone_by" bigint null);`);
    this.addSql(`create index "course_change_course_id_index" on "course_change" ("course", "id");`);

    this.addSql(`create table "course_access" ("course" bigserial primary key, "assistants_decide" boolean not null default false);`);

    this.addSql(`create table "course_match" ("id" bigserial primary key, "course" bigint not null, "other" bigint not null, "told" text not null);`);
    this.addSql(`alter table "course_match" add constraint "course_match_course_other_unique" unique ("course", "other");`);

    this.addSql(`create table "course" ("id" bigserial primary key, "code" text not null, "title" text not null, "time_zone" text not null, "start" text not null, "end" text not null, "url" text null, "breaks" text not null, "group_weights" text null, "marks" text not null, "letters" text null, "settings" text not null, "guards" text not null default '{"askAbove":0.5,"staleHours":null}', "sender" text not null, "sender_confirmed" boolean not null default true, "days_confirmed" boolean not null default true, "version" bigint not null default 1, "facts_version" bigint not null default 1, "settings_version" bigint not null default 1, "heard_at" bigint null, "worry" text null, "retractions" bigint not null default 0, "meanings" text not null default '{}', "watched" boolean not null default false, "sources" text not null default '{}', "keep_months" bigint null, "stopped_at" bigint null, "stopped_by" text null, "archived_at" bigint null, "copy_from" bigint null);`);

    this.addSql(`create table "erased" ("id" bigserial primary key, "course" bigint not null, "marks" text not null, "stands_as" text not null, "at" bigint not null, "by" text not null, "who" text null, "allowed_at" bigint null, "backups" text not null default '[]');`);
    this.addSql(`create index "erased_course_index" on "erased" ("course");`);

    this.addSql(`create table "activity_event" ("id" bigserial primary key, "course" bigint not null, "event_id" text not null, "person" text not null, "kind" text not null, "item" text null, "at" bigint not null, "change" bigint null);`);
    this.addSql(`create index "activity_event_course_id_index" on "activity_event" ("course", "id");`);
    this.addSql(`alter table "activity_event" add constraint "activity_event_course_event_id_unique" unique ("course", "event_id");`);

    this.addSql(`create table "export_file" ("id" text not null, "account" bigint not null, "course" bigint not null, "name" text not null, "state" text not null, "done" bigint not null default 0, "total" bigint not null default 0, "bytes" bigint not null default 0, "trouble" text null, "heard_at" bigint not null, constraint "export_file_pkey" primary key ("id"));`);
    this.addSql(`create index "export_file_account_index" on "export_file" ("account");`);

    this.addSql(`create table "calendar_entry" ("id" bigserial primary key, "course" bigint not null, "name" text not null, "digest" text not null, "sequence" bigint not null, "changed_at" bigint not null);`);
    this.addSql(`alter table "calendar_entry" add constraint "calendar_entry_course_name_unique" unique ("course", "name");`);

    this.addSql(`create table "calendar_feed" ("course" bigserial primary key, "token_hash" text not null, "made_at" bigint not null, "made_by" text not null);`);
    this.addSql(`alter table "calendar_feed" add constraint "calendar_feed_token_hash_unique" unique ("token_hash");`);

    this.addSql(`create table "file" ("id" bigserial primary key, "course" bigint not null, "key" text not null, "name" text not null, "type" text not null, "size" bigint not null, "bytes" bytea not null, "taken_at" bigint not null);`);
    this.addSql(`alter table "file" add constraint "file_course_key_unique" unique ("course", "key");`);

    this.addSql(`create table "grade" ("id" bigserial primary key, "course" bigint not null, "event_id" text not null, "person" text not null, "item" text not null, "criterion" text null, "points" double precision not null, "at" bigint not null, "change" bigint null);`);
    this.addSql(`create index "grade_course_id_index" on "grade" ("course", "id");`);
    this.addSql(`alter table "grade" add constraint "grade_course_event_id_unique" unique ("course", "event_id");`);

    this.addSql(`create table "import_bytes" ("import" bigserial primary key, "bytes" bytea not null);`);

    this.addSql(`create table "import_memory" ("id" bigserial primary key, "course" bigint not null, "headers" text not null, "names" text not null default '[]', "taken_at" bigint not null default 0, "decisions" text not null);`);
    this.addSql(`alter table "import_memory" add constraint "import_memory_course_headers_unique" unique ("course", "headers");`);

    this.addSql(`create table "import" ("id" bigserial primary key, "course" bigint not null, "by" text not null, "name" text not null, "at" bigint not null, "state" text not null, "way" text not null, "decisions" text not null, "file" text null, "change" bigint null, "report" text null, "trouble" text null);`);
    this.addSql(`create index "import_course_id_index" on "import" ("course", "id");`);

    this.addSql(`create table "installation" ("id" bigserial primary key, "factor_required" boolean not null default false, "keep_months" bigint not null default 24);`);

    this.addSql(`create table "item" ("id" bigserial primary key, "course" bigint not null, "key" text not null, "position" bigint not null, "title" text not null, "kind" text not null, "item_group" text null, "points" double precision null, "opens_at" bigint null, "due_at" bigint null, "topics" text not null, "excused" text not null, "extensions" text not null, "url" text null);`);
    this.addSql(`alter table "item" add constraint "item_course_key_unique" unique ("course", "key");`);

    this.addSql(`create table "launch_account" ("id" bigserial primary key, "platform" bigint not null, "deployment" text not null, "subject" text not null, "account" bigint not null);`);
    this.addSql(`create index "launch_account_account_index" on "launch_account" ("account");`);
    this.addSql(`alter table "launch_account" add constraint "launch_account_platform_deployment_subject_unique" unique ("platform", "deployment", "subject");`);

    this.addSql(`create table "launch_code" ("hash" text not null, "session" text not null, "leads_to" text not null, "ends_at" bigint not null, constraint "launch_code_pkey" primary key ("hash"));`);

    this.addSql(`create table "launch_course" ("id" bigserial primary key, "platform" bigint not null, "deployment" text not null, "context" text not null, "course" bigint not null);`);
    this.addSql(`create index "launch_course_course_index" on "launch_course" ("course");`);
    this.addSql(`alter table "launch_course" add constraint "launch_course_platform_deployment_context_unique" unique ("platform", "deployment", "context");`);

    this.addSql(`create table "launch_part" ("id" bigserial primary key, "account" bigint not null, "course" bigint not null, "role" text not null);`);
    this.addSql(`alter table "launch_part" add constraint "launch_part_account_course_unique" unique ("account", "course");`);

    this.addSql(`create table "lease" ("name" text not null, "holder" text not null, "until" bigint not null, constraint "lease_pkey" primary key ("name"));`);

    this.addSql(`create table "link" ("id" bigserial primary key, "kind" text not null, "hash" text not null, "email" text not null, "course" bigint null, "role" text null, "by" text null, "at" bigint not null, "ends_at" bigint not null, "used_at" bigint null);`);
    this.addSql(`alter table "link" add constraint "link_hash_unique" unique ("hash");`);
    this.addSql(`create index "link_course_index" on "link" ("course");`);

    this.addSql(`create table "mailbox" ("id" text not null, "uid_validity" text not null, "last_uid" bigint not null, "read_at" bigint not null, "trouble" text null, "set_aside" text not null default '[]', constraint "mailbox_pkey" primary key ("id"));`);

    this.addSql(`create table "mailing" ("id" bigserial primary key, "course" bigint not null, "at" bigint not null, "by" text not null, "wording" text not null, "rows" text not null, "outside" text not null, "sheet" bigint null);`);
    this.addSql(`create index "mailing_course_id_index" on "mailing" ("course", "id");`);

    this.addSql(`create table "mail_trouble" ("course" bigint not null, "trouble" text not null, "response" text not null, "since" bigint not null, "tries" bigint not null, "next_try_at" bigint not null, constraint "mail_trouble_pkey" primary key ("course"));`);

    this.addSql(`create table "message" ("id" bigserial primary key, "nudge" bigint null, "plain_mail" bigint null, "course" bigint not null, "kind" text not null, "lead" boolean not null default false, "reader" text null, "name" text not null, "address" text not null, "state" text not null, "held_for" text null, "trouble" text null, "send_at" bigint not null, "attempts" bigint not null default 0, "variant" bigint null, "claimed_by" text null, "begun_at" bigint null, "settled_at" bigint null, "sending" bigint null, "bundle" text null);`);
    this.addSql(`create index "message_nudge_index" on "message" ("nudge");`);
    this.addSql(`create index "message_plain_mail_index" on "message" ("plain_mail");`);
    this.addSql(`create index "message_sending_index" on "message" ("sending");`);
    this.addSql(`create index "message_bundle_index" on "message" ("bundle");`);
    this.addSql(`create index "message_state_course_send_at_index" on "message" ("state", "course", "send_at");`);
    this.addSql(`create index "message_course_send_at_index" on "message" ("course", "send_at");`);
    this.addSql(`create index "message_course_settled_at_index" on "message" ("course", "settled_at");`);

    this.addSql(`create table "launch_nonce" ("nonce" text not null, "ends_at" bigint not null, constraint "launch_nonce_pkey" primary key ("nonce"));`);
    this.addSql(`create index "launch_nonce_ends_at_index" on "launch_nonce" ("ends_at");`);

    this.addSql(`create table "note" ("id" bigserial primary key, "course" bigint not null, "student" text not null, "account" bigint not null, "at" bigint not null, "text" text not null);`);
    this.addSql(`create index "note_course_account_student_index" on "note" ("course", "account", "student");`);

    this.addSql(`create table "nudge" ("id" bigserial primary key, "course" bigint not null, "idempotency_key" text not null, "rule" text null, "rule_version" bigint not null, "student" text not null, "round_at" bigint not null, "step" bigint not null, "spell_start" bigint not null, "state" text not null, "reason" text null, "to_student" boolean not null, "wording" text not null, "subject" text null, "last_at" bigint null, "evidence" text not null, "passed" text null, "passed_by" text null, "edited" text null, "later_until" bigint null, "decided_by" text null, "dismissed_for" text null);`);
    this.addSql(`alter table "nudge" add constraint "nudge_idempotency_key_unique" unique ("idempotency_key");`);
    this.addSql(`create index "nudge_course_round_at_index" on "nudge" ("course", "round_at");`);
    this.addSql(`create index "nudge_course_student_round_at_index" on "nudge" ("course", "student", "round_at");`);
    this.addSql(`create index "nudge_course_student_rule_spell_start_index" on "nudge" ("course", "student", "rule", "spell_start");`);
    this.addSql(`create index "nudge_course_rule_round_at_index" on "nudge" ("course", "rule", "round_at");`);
    this.addSql(`create index "nudge_course_state_round_at_index" on "nudge" ("course", "state", "round_at");`);
    this.addSql(`create index "nudge_latest_index" on "nudge" ("course", coalesce("last_at", "round_at"), "id");`);

    this.addSql(`create table "own_sender" ("id" bigserial primary key, "course" bigint not null, "account" bigint not null, "sender" text not null);`);
    this.addSql(`create index "own_sender_account_index" on "own_sender" ("account");`);
    this.addSql(`alter table "own_sender" add constraint "own_sender_course_account_unique" unique ("course", "account");`);

    this.addSql(`create table "passkey" ("id" bigserial primary key, "account" bigint not null, "name" text not null, "credential" text not null, "public_key" text not null, "counter" bigint not null, "at" bigint not null, "used_at" bigint null);`);
    this.addSql(`create index "passkey_account_index" on "passkey" ("account");`);
    this.addSql(`alter table "passkey" add constraint "passkey_credential_unique" unique ("credential");`);

    this.addSql(`create table "person" ("id" bigserial primary key, "course" bigint not null, "key" text not null, "position" bigint not null, "first_name" text not null, "last_name" text not null, "email" text null, "role" text not null, "section" text null, "active" boolean not null, "enrolled_at" bigint not null, "paused" boolean not null default false, "paused_until" bigint null, "bounced_at" bigint null, "contacts" text not null, "fields" text not null);`);
    this.addSql(`alter table "person" add constraint "person_course_key_unique" unique ("course", "key");`);

    this.addSql(`create table "pin" ("id" bigserial primary key, "course" bigint not null, "student" text not null, "account" bigint not null, "at" bigint not null);`);
    this.addSql(`alter table "pin" add constraint "pin_course_account_student_unique" unique ("course", "account", "student");`);

    this.addSql(`create table "plain_mail" ("id" bigserial primary key, "kind" text not null, "course" bigint not null, "reply" bigint null, "nudge" bigint null, "by" text not null, "at" bigint not null, "subject" text not null, "text" text not null, "message_id" text not null, "in_reply_to" text null);`);
    this.addSql(`create index "plain_mail_reply_index" on "plain_mail" ("reply");`);
    this.addSql(`create index "plain_mail_nudge_kind_index" on "plain_mail" ("nudge", "kind");`);

    this.addSql(`create table "platform" ("id" bigserial primary key, "issuer" text not null, "client_id" text not null, "deployments" text not null, "auth_endpoint" text not null, "token_endpoint" text not null, "jwks_url" text not null, "token_audience" text null, "frame_origins" text not null, "service_origins" text not null, "added_at" bigint not null, "approved_at" bigint null);`);
    this.addSql(`alter table "platform" add constraint "platform_issuer_client_id_unique" unique ("issuer", "client_id");`);

    this.addSql(`create table "recovery_code" ("id" bigserial primary key, "account" bigint not null, "hash" text not null);`);
    this.addSql(`create index "recovery_code_account_index" on "recovery_code" ("account");`);

    this.addSql(`create table "refusal" ("id" bigserial primary key, "course" bigint not null, "rule" text not null, "student" text not null, "spell_start" bigint not null, "step" bigint not null, "reason" text not null, "first_round" bigint not null, "last_round" bigint not null, "rounds" bigint not null, "evidence" text not null);`);
    this.addSql(`create index "refusal_course_last_round_index" on "refusal" ("course", "last_round");`);
    this.addSql(`create index "refusal_course_rule_last_round_index" on "refusal" ("course", "rule", "last_round");`);
    this.addSql(`create index "refusal_course_student_rule_last_round_index" on "refusal" ("course", "student", "rule", "last_round");`);

    this.addSql(`create table "registration_code" ("hash" text not null, "origin" text not null, "ends_at" bigint not null, constraint "registration_code_pkey" primary key ("hash"));`);

    this.addSql(`create table "reply" ("id" bigserial primary key, "course" bigint not null, "nudge" bigint not null, "student" text null, "kind" text not null, "at" bigint not null, "message_id" text not null, "from_name" text not null, "from_address" text not null, "subject" text not null, "text" text not null, "settled_at" bigint null, "settled_by" text null);`);
    this.addSql(`create index "reply_nudge_index" on "reply" ("nudge");`);
    this.addSql(`create index "reply_course_at_index" on "reply" ("course", "at");`);
    this.addSql(`create index "reply_course_student_kind_index" on "reply" ("course", "student", "kind");`);
    this.addSql(`alter table "reply" add constraint "reply_course_message_id_unique" unique ("course", "message_id");`);

    this.addSql(`create table "retracted" ("id" bigserial primary key, "course" bigint not null, "change" bigint not null, "brought_by" bigint null, "fact" text not null, "event_id" text not null, "person" text not null, "kind" text null, "item" text null, "criterion" text null, "points" double precision null, "at" bigint not null, "retracted_at" bigint not null, "by" text not null, "reason" text not null);`);
    this.addSql(`create index "retracted_course_person_index" on "retracted" ("course", "person");`);
    this.addSql(`create index "retracted_course_change_index" on "retracted" ("course", "change");`);
    this.addSql(`alter table "retracted" add constraint "retracted_course_fact_event_id_unique" unique ("course", "fact", "event_id");`);

    this.addSql(`create table "rule_round" ("id" bigserial primary key, "course" bigint not null, "rule" text not null, "at" bigint not null, "trigger" text not null, "claim" text not null, "version" bigint not null, "matched" bigint not null default 0, "heard" bigint not null default 0, "held" bigint not null default 0, "withheld" bigint not null default 0, "withdrawn" bigint not null default 0, "missed" text not null default '[]');`);
    this.addSql(`alter table "rule_round" add constraint "rule_round_claim_unique" unique ("claim");`);
    this.addSql(`create index "rule_round_course_at_index" on "rule_round" ("course", "at");`);
    this.addSql(`create index "rule_round_course_rule_at_index" on "rule_round" ("course", "rule", "at");`);

    this.addSql(`create table "rule" ("id" bigserial primary key, "course" bigint not null, "key" text not null, "position" bigint not null, "status" text not null, "version" bigint not null, "format" bigint not null default 1, "document" text not null, "next_round_at" bigint null, "changed_at" bigint not null, "archived_at" bigint null, "drafted" text null, "owner" bigint null, "outside" text not null default '[]');`);
    this.addSql(`create index "rule_status_next_round_at_index" on "rule" ("status", "next_round_at");`);
    this.addSql(`alter table "rule" add constraint "rule_course_key_unique" unique ("course", "key");`);

    this.addSql(`create table "rules_file" ("id" bigserial primary key, "course" bigint not null, "name" text not null, "document" text not null, "at" bigint not null);`);
    this.addSql(`create index "rules_file_course_index" on "rules_file" ("course");`);

    this.addSql(`create table "rule_version" ("id" bigserial primary key, "rule" bigint not null, "version" bigint not null, "status" text not null default 'draft', "document" text not null, "saved_at" bigint not null, "saved_by" bigint null);`);
    this.addSql(`alter table "rule_version" add constraint "rule_version_rule_version_unique" unique ("rule", "version");`);

    this.addSql(`create table "activity_segment" ("course" bigserial primary key, "last_event" bigint not null, "last_grade" bigint not null, "retractions" bigint not null default 0, "columns" bytea not null);`);

    this.addSql(`create table "sending" ("id" bigserial primary key, "account" bigint not null, "course" bigint not null, "kind" text not null, "words" text not null, "until" bigint not null, "course_until" bigint not null, "take_back" text not null);`);
    this.addSql(`create index "sending_until_index" on "sending" ("until");`);

    this.addSql(`create table "session" ("id" text not null, "data" text not null, "account" bigint null, "since" bigint not null default 0, "seen_at" bigint not null default 0, "from" text not null default '', "browser" text not null default '', "expires_at" bigint not null, constraint "session_pkey" primary key ("id"));`);
    this.addSql(`create index "session_account_index" on "session" ("account");`);
    this.addSql(`create index "session_expires_at_index" on "session" ("expires_at");`);

    this.addSql(`create table "course_set_member" ("id" bigserial primary key, "set" bigint not null, "kind" text not null, "course" bigint not null, "key" text not null, "from_version" bigint not null, "pending" text null);`);
    this.addSql(`create index "course_set_member_set_index" on "course_set_member" ("set");`);
    this.addSql(`alter table "course_set_member" add constraint "course_set_member_course_kind_key_unique" unique ("course", "kind", "key");`);

    this.addSql(`create table "course_set" ("id" bigserial primary key, "kind" text not null, "version" bigint not null);`);

    this.addSql(`create table "course_set_version" ("id" bigserial primary key, "set" bigint not null, "version" bigint not null, "course" bigint not null, "document" text not null, "at" bigint not null, "by" text not null);`);
    this.addSql(`alter table "course_set_version" add constraint "course_set_version_set_version_unique" unique ("set", "version");`);

    this.addSql(`create table "sheet" ("id" bigserial primary key, "course" bigint not null, "name" text not null, "at" bigint not null, "by" text not null, "headers" text not null, "rows" text not null, "nudges" text not null default '{}');`);
    this.addSql(`create index "sheet_course_id_index" on "sheet" ("course", "id");`);

    this.addSql(`create table "sign_in_try" ("key" text not null, "wrong" bigint not null, "since" bigint not null, constraint "sign_in_try_pkey" primary key ("key"));`);
    this.addSql(`create index "sign_in_try_since_index" on "sign_in_try" ("since");`);

    this.addSql(`create table "source_link" ("id" bigserial primary key, "source" bigint not null, "kind" text not null, "external" text not null, "key" text not null, "alone" boolean not null default false);`);
    this.addSql(`alter table "source_link" add constraint "source_link_source_kind_external_unique" unique ("source", "kind", "external");`);

    this.addSql(`create table "source" ("id" bigserial primary key, "course" bigint not null, "kind" text not null, "settings" text not null, "secret" text null, "added_at" bigint not null, "next_at" bigint not null, "heard_at" bigint null, "last" text null, "trouble" text null, "tries" bigint not null default 0, "busy_until" bigint null);`);
    this.addSql(`create index "source_course_index" on "source" ("course");`);
    this.addSql(`create index "source_next_at_index" on "source" ("next_at");`);

    this.addSql(`create table "statement" ("id" bigserial primary key, "course" bigint not null, "statement" text not null, "standard" text not null default 'xapi', "json" text not null, "digest" text not null, "actor" text not null, "verb" text not null, "activity" text null, "registration" text null, "stored_at" bigint not null, "voided" boolean not null default false, "state" text not null, "about" text null, "said" text null, "why" text null);`);
    this.addSql(`create index "statement_course_id_index" on "statement" ("course", "id");`);
    this.addSql(`create index "statement_course_state_id_index" on "statement" ("course", "state", "id");`);
    this.addSql(`create index "statement_course_stored_at_index" on "statement" ("course", "stored_at");`);
    this.addSql(`create index "statement_course_standard_stored_at_index" on "statement" ("course", "standard", "stored_at");`);
    this.addSql(`alter table "statement" add constraint "statement_course_statement_unique" unique ("course", "statement");`);

    this.addSql(`create table "token" ("id" bigserial primary key, "course" bigint not null, "name" text not null, "hash" text not null, "capabilities" text not null, "feeds" text null, "made_by" bigint null, "made_at" bigint not null, "ends_at" bigint null, "revoked_at" bigint null, "used_at" bigint null);`);
    this.addSql(`create index "token_course_index" on "token" ("course");`);
    this.addSql(`alter table "token" add constraint "token_hash_unique" unique ("hash");`);

    this.addSql(`create table "tool_key" ("id" bigserial primary key, "kid" text not null, "public_key" text not null, "private_key" text not null, "signs_from" bigint not null);`);
    this.addSql(`alter table "tool_key" add constraint "tool_key_kid_unique" unique ("kid");`);

    this.addSql(`create table "trial_course" ("id" bigserial primary key, "trial" bigint not null, "course" bigint not null, "wording" text not null);`);
    this.addSql(`create index "trial_course_course_wording_index" on "trial_course" ("course", "wording");`);
    this.addSql(`alter table "trial_course" add constraint "trial_course_trial_course_unique" unique ("trial", "course");`);

    this.addSql(`create table "trial_draw" ("id" bigserial primary key, "trial" bigint not null, "course" bigint not null, "place" bigint not null, "student" text not null, "text" bigint not null, "at" bigint not null);`);
    this.addSql(`alter table "trial_draw" add constraint "trial_draw_trial_course_student_unique" unique ("trial", "course", "student");`);
    this.addSql(`alter table "trial_draw" add constraint "trial_draw_trial_course_place_unique" unique ("trial", "course", "place");`);

    this.addSql(`create table "trial" ("id" bigserial primary key, "seed" text not null, "texts" text not null, "points" bigint not null, "needed" bigint not null, "started_at" bigint not null, "started_by" text not null, "ended_at" bigint null);`);

    this.addSql(`create table "round_trouble" ("id" bigserial primary key, "course" bigint not null, "rule" text not null, "since" bigint not null, "attempts" bigint not null, "next_try_at" bigint not null, "message" text not null);`);
    this.addSql(`alter table "round_trouble" add constraint "round_trouble_course_rule_unique" unique ("course", "rule");`);

    this.addSql(`create table "lookout_view" ("id" bigserial primary key, "course" bigint not null, "name" text not null, "view" text not null, "by" text not null, "at" bigint not null);`);
    this.addSql(`alter table "lookout_view" add constraint "lookout_view_course_name_unique" unique ("course", "name");`);

    this.addSql(`create table "wording" ("id" bigserial primary key, "course" bigint not null, "key" text not null, "name" text not null, "purpose" text not null, "subject" text not null, "body" text not null, "variants" text not null default '[]', "copies" text not null default '[]', "files" text not null default '[]', "letter" text null, "version" bigint not null default 1, "drafted" text null);`);
    this.addSql(`alter table "wording" add constraint "wording_course_key_unique" unique ("course", "key");`);

    this.addSql(`create table "worker" ("id" text not null, "alive_at" bigint not null, constraint "worker_pkey" primary key ("id"));`);
  }

}
