import { Migration } from '@mikro-orm/migrations';

export class Migration20261128070814 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`calendar_entry\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`name\` text not null, \`digest\` text not null, \`sequence\` integer not null, \`changed_at\` bigint not null);`);
    this.addSql(`create unique index \`calendar_entry_course_name_unique\` on \`calendar_entry\` (\`course\`, \`name\`);`);

    this.addSql(`create table \`calendar_feed\` (\`course\` integer not null primary key autoincrement, \`token_hash\` text not null, \`made_at\` bigint not null, \`made_by\` text not null);`);
    this.addSql(`create unique index \`calendar_feed_token_hash_unique\` on \`calendar_feed\` (\`token_hash\`);`);
  }

}
