import { Migration } from '@mikro-orm/migrations';

export class Migration20261128151034 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`source_link\` (\`id\` integer not null primary key autoincrement, \`source\` integer not null, \`kind\` text not null, \`external\` text not null, \`key\` text not null, \`alone\` integer not null default false);`);
    this.addSql(`create unique index \`source_link_source_kind_external_unique\` on \`source_link\` (\`source\`, \`kind\`, \`external\`);`);

    this.addSql(`create table \`source\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`kind\` text not null, \`settings\` json not null, \`secret\` text null, \`added_at\` bigint not null, \`next_at\` bigint not null, \`heard_at\` bigint null, \`last\` json null, \`trouble\` json null, \`tries\` integer not null default 0, \`busy_until\` bigint null);`);
    this.addSql(`create index \`source_course_index\` on \`source\` (\`course\`);`);
    this.addSql(`create index \`source_next_at_index\` on \`source\` (\`next_at\`);`);
  }

}
