import { Migration } from '@mikro-orm/migrations';

export class Migration20261128062608 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`course_match\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`other\` integer not null, \`told\` json not null);`);
    this.addSql(`create unique index \`course_match_course_other_unique\` on \`course_match\` (\`course\`, \`other\`);`);

    this.addSql(`create table \`course_set_member\` (\`id\` integer not null primary key autoincrement, \`set\` integer not null, \`kind\` text not null, \`course\` integer not null, \`key\` text not null, \`from_version\` integer not null, \`pending\` json null);`);
    this.addSql(`create index \`course_set_member_set_index\` on \`course_set_member\` (\`set\`);`);
    this.addSql(`create unique index \`course_set_member_course_kind_key_unique\` on \`course_set_member\` (\`course\`, \`kind\`, \`key\`);`);

    this.addSql(`create table \`course_set\` (\`id\` integer not null primary key autoincrement, \`kind\` text not null, \`version\` integer not null);`);

    this.addSql(`create table \`course_set_version\` (\`id\` integer not null primary key autoincrement, \`set\` integer not null, \`version\` integer not null, \`course\` integer not null, \`document\` json not null, \`at\` bigint not null, \`by\` text not null);`);
    this.addSql(`create unique index \`course_set_version_set_version_unique\` on \`course_set_version\` (\`set\`, \`version\`);`);
  }

}
