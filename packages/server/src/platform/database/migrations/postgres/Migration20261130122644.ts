import { Migration } from '@mikro-orm/migrations';

export class Migration20261130122644 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table "notice" ("name" text not null, "kind" text not null, "since" bigint not null, "until" bigint not null, "says" text not null, "clock" text null, constraint "notice_pkey" primary key ("name"));`);
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "notice" cascade;`);
  }

}
