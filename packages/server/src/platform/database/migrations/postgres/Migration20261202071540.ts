import { Migration } from '@mikro-orm/migrations';

export class Migration20261202071540 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table "shelf_copy" ("id" bigserial primary key, "course" bigint not null, "kind" text not null, "key" text not null, "item" bigint not null, "version" bigint not null);`);
    this.addSql(`alter table "shelf_copy" add constraint "shelf_copy_course_kind_key_unique" unique ("course", "kind", "key");`);

    this.addSql(`create table "shelf_item" ("id" bigserial primary key, "kind" text not null, "version" bigint not null, "name" text not null, "retired_at" bigint null);`);

    this.addSql(`create table "shelf_version" ("id" bigserial primary key, "item" bigint not null, "version" bigint not null, "note" text not null, "document" text not null, "by" text not null, "at" bigint not null);`);
    this.addSql(`alter table "shelf_version" add constraint "shelf_version_item_version_unique" unique ("item", "version");`);

    this.addSql(`alter table "installation" add column "name" text not null default '', add column "shelf_keepers" text not null default '[]';`);
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "shelf_copy" cascade;`);

    this.addSql(`drop table if exists "shelf_item" cascade;`);

    this.addSql(`drop table if exists "shelf_version" cascade;`);

    this.addSql(`alter table "installation" drop column "name", drop column "shelf_keepers";`);
  }

}
