import { Migration } from '@mikro-orm/migrations';

export class Migration20261202064654 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table "reason" ("id" bigserial primary key, "course" bigint not null, "what" text not null, "of_key" text not null, "version" bigint null, "by" text not null, "at" bigint not null, "words" text not null);`);
    this.addSql(`create index "reason_course_at_index" on "reason" ("course", "at");`);
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "reason" cascade;`);
  }

}
