import { Migration } from '@mikro-orm/migrations';

export class Migration20261125075048 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`file\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`key\` text not null, \`name\` text not null, \`type\` text not null, \`size\` integer not null, \`bytes\` blob not null, \`taken_at\` bigint not null);`,
    );
    this.addSql(`create unique index \`file_course_key_unique\` on \`file\` (\`course\`, \`key\`);`);

    this.addSql(
      `create table \`mailbox\` (\`id\` text not null, \`uid_validity\` text not null, \`last_uid\` integer not null, \`read_at\` bigint not null, primary key (\`id\`));`,
    );

    this.addSql(`alter table \`attempt\` add column \`files\` json not null default '[]';`);

    this.addSql(`alter table \`course\` add column \`url\` text null;`);

    this.addSql(`alter table \`item\` add column \`url\` text null;`);

    this.addSql(`alter table \`message\` add column \`reader\` text null;`);

    this.addSql(`alter table \`rule\` add column \`outside\` json not null default '[]';`);

    this.addSql(`alter table \`wording\` add column \`copies\` json not null default '[]';`);
    this.addSql(`alter table \`wording\` add column \`files\` json not null default '[]';`);
    this.addSql(`alter table \`wording\` add column \`letter\` json null;`);
  }
}
