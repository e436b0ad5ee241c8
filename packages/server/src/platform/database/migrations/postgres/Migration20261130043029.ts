import { Migration } from '@mikro-orm/migrations';

export class Migration20261130043029 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table "address_code" ("id" bigserial primary key, "account" bigint not null, "address" text not null, "mark" text not null, "tries" bigint not null default 0, "at" bigint not null, "ends_at" bigint not null);`);
    this.addSql(`create index "address_code_ends_at_index" on "address_code" ("ends_at");`);
    this.addSql(`create index "address_code_account_at_index" on "address_code" ("account", "at");`);
    this.addSql(`create index "address_code_address_at_index" on "address_code" ("address", "at");`);

    this.addSql(`create table "known_pair" ("key" text not null, "until" bigint not null, constraint "known_pair_pkey" primary key ("key"));`);
    this.addSql(`create index "known_pair_until_index" on "known_pair" ("until");`);

    this.addSql(`create table "proven_address" ("id" bigserial primary key, "account" bigint not null, "address" text not null, "how" text not null, "at" bigint not null);`);
    this.addSql(`alter table "proven_address" add constraint "proven_address_account_address_unique" unique ("account", "address");`);

    this.addSql(`alter table "account" add column "is_unproven" boolean not null default false;`);

    this.addSql(`alter table "act" add column "count" bigint not null default 1, add column "tally" text null;`);
    this.addSql(`alter table "act" add constraint "act_tally_unique" unique ("tally");`);

    this.addSql(`alter table "course" add column "sender_by" bigint null;`);

    this.addSql(`alter table "installation" add column "sender_name" text null, add column "sender_address" text null, add column "sender_domains" text not null default '[]', add column "courses_by" text not null default 'proven', add column "course_makers" text not null default '[]', add column "fingerprint" text null;`);

    this.addSql(`alter table "link" add column "is_shown" boolean not null default false;`);

    this.addSql(`alter table "own_sender" add column "is_checked" boolean not null default false;`);

    this.addSql(`alter table "platform" add column "trusts_addresses" boolean not null default false;`);

    this.addSql(`alter table "sign_in_try" add column "ends_at" bigint not null default 0;`);
    this.addSql(`create index "sign_in_try_ends_at_index" on "sign_in_try" ("ends_at");`);
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "address_code" cascade;`);

    this.addSql(`drop table if exists "known_pair" cascade;`);

    this.addSql(`drop table if exists "proven_address" cascade;`);

    this.addSql(`alter table "account" drop column "is_unproven";`);

    this.addSql(`alter table "act" drop constraint "act_tally_unique";`);
    this.addSql(`alter table "act" drop column "count", drop column "tally";`);

    this.addSql(`alter table "course" drop column "sender_by";`);

    this.addSql(`alter table "installation" drop column "sender_name", drop column "sender_address", drop column "sender_domains", drop column "courses_by", drop column "course_makers", drop column "fingerprint";`);

    this.addSql(`alter table "link" drop column "is_shown";`);

    this.addSql(`alter table "own_sender" drop column "is_checked";`);

    this.addSql(`alter table "platform" drop column "trusts_addresses";`);

    this.addSql(`drop index "sign_in_try_ends_at_index";`);
    this.addSql(`alter table "sign_in_try" drop column "ends_at";`);
  }

}
