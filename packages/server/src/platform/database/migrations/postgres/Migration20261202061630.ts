import { Migration } from '@mikro-orm/migrations';

export class Migration20261202061630 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table "directory_account" ("id" bigserial primary key, "account" bigint not null, "issuer" text not null, "subject" text not null, "at" bigint not null);`);
    this.addSql(`create index "directory_account_account_index" on "directory_account" ("account");`);
    this.addSql(`alter table "directory_account" add constraint "directory_account_issuer_subject_unique" unique ("issuer", "subject");`);

    this.addSql(`create table "directory" ("id" bigserial primary key, "issuer" text null, "client_id" text null, "secret" text null, "name" text not null, "trusts_addresses" boolean not null default false, "admits" text null, "acr" text not null, "amr" text not null, "passwords_off" boolean not null default false);`);

    this.addSql(`create table "joined_account" ("id" bigserial primary key, "account" bigint not null, "to_account" bigint not null, "at" bigint not null, "parts" text not null);`);
    this.addSql(`alter table "joined_account" add constraint "joined_account_account_unique" unique ("account");`);
    this.addSql(`create index "joined_account_to_account_index" on "joined_account" ("to_account");`);
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "directory_account" cascade;`);

    this.addSql(`drop table if exists "directory" cascade;`);

    this.addSql(`drop table if exists "joined_account" cascade;`);
  }

}
