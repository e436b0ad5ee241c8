import { Migration } from '@mikro-orm/migrations';

export class Migration20261202071532 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`shelf_copy\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`kind\` text not null, \`key\` text not null, \`item\` integer not null, \`version\` integer not null);`);
    this.addSql(`create unique index \`shelf_copy_course_kind_key_unique\` on \`shelf_copy\` (\`course\`, \`kind\`, \`key\`);`);

    this.addSql(`create table \`shelf_item\` (\`id\` integer not null primary key autoincrement, \`kind\` text not null, \`version\` integer not null, \`name\` text not null, \`retired_at\` bigint null);`);

    this.addSql(`create table \`shelf_version\` (\`id\` integer not null primary key autoincrement, \`item\` integer not null, \`version\` integer not null, \`note\` text not null, \`document\` json not null, \`by\` text not null, \`at\` bigint not null);`);
    this.addSql(`create unique index \`shelf_version_item_version_unique\` on \`shelf_version\` (\`item\`, \`version\`);`);

    this.addSql(`alter table \`installation\` add column \`name\` text not null default '';`);
    this.addSql(`alter table \`installation\` add column \`shelf_keepers\` json not null default '[]';`);
  }

}
