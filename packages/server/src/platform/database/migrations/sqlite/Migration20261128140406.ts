import { Migration } from '@mikro-orm/migrations';

export class Migration20261128140406 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`own_sender\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`account\` integer not null, \`sender\` json not null);`);
    this.addSql(`create index \`own_sender_account_index\` on \`own_sender\` (\`account\`);`);
    this.addSql(`create unique index \`own_sender_course_account_unique\` on \`own_sender\` (\`course\`, \`account\`);`);

    this.addSql(`alter table \`rule\` add column \`owner\` integer null;`);
    // Rules of before wrote as their course, and go on so.
    this.addSql(`update \`rule\` set \`owner\` = 0;`);
  }

}
