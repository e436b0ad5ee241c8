import { Migration } from '@mikro-orm/migrations';

export class Migration20261126013842 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`mailing\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`at\` bigint not null, \`by\` text not null, \`wording\` json not null, \`rows\` json not null, \`outside\` json not null, \`sheet\` integer null);`,
    );
    this.addSql(`create index \`mailing_course_id_index\` on \`mailing\` (\`course\`, \`id\`);`);

    this.addSql(
      `create table \`sheet\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`name\` text not null, \`at\` bigint not null, \`by\` text not null, \`headers\` json not null, \`rows\` json not null, \`nudges\` json not null default '{}');`,
    );
    this.addSql(`create index \`sheet_course_id_index\` on \`sheet\` (\`course\`, \`id\`);`);
  }
}
