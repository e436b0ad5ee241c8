import { Migration } from '@mikro-orm/migrations';

export class Migration20261129032953 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table "hits" ("name" text not null, "count" bigint not null, "until" bigint not null, constraint "hits_pkey" primary key ("name"));`);
    this.addSql(`create index "hits_until_index" on "hits" ("until");`);
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "hits" cascade;`);
  }

}
