import { Migration } from '@mikro-orm/migrations';

/** Where the name of anyone who did something stood as a text. */
const NAMES = [
  ['trial', 'started_by'],
  ['reply', 'settled_by'],
  ['mailing', 'by'],
  ['sheet', 'by'],
  ['plain_mail', 'by'],
  ['nudge', 'passed_by'],
  ['nudge', 'decided_by'],
  ['calendar_feed', 'made_by'],
  ['lookout_view', 'by'],
  ['carry', 'by'],
  ['course_set_version', 'by'],
  ['retracted', 'by'],
  ['course', 'stopped_by'],
  ['aside', 'set_by'],
  ['course_change', 'by'],
  ['import', 'by'],
] as const;

export class Migration20261128103112 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`act\` (\`id\` integer not null primary key autoincrement, \`at\` bigint not null, \`course\` integer null, \`by\` text not null, \`act\` text not null, \`about\` json not null, \`from\` text not null);`);
    this.addSql(`create index \`act_at_index\` on \`act\` (\`at\`);`);
    this.addSql(`create index \`act_course_at_index\` on \`act\` (\`course\`, \`at\`);`);

    this.addSql(`create table \`token\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`name\` text not null, \`hash\` text not null, \`capabilities\` json not null, \`made_by\` integer null, \`made_at\` bigint not null, \`ends_at\` bigint null, \`revoked_at\` bigint null, \`used_at\` bigint null);`);
    this.addSql(`create index \`token_course_index\` on \`token\` (\`course\`);`);
    this.addSql(`create unique index \`token_hash_unique\` on \`token\` (\`hash\`);`);

    // The secrets with which platforms feed courses are tokens like any other.
    const kept = (hash: string, name: string) =>
      `insert into \`token\` (\`course\`, \`name\`, \`hash\`, \`capabilities\`, \`made_at\`) select \`id\`, '${name}', \`${hash}\`, '["data.write"]', unixepoch() * 1000 from \`course\` where \`${hash}\` is not null;`;
    this.addSql(kept('token_hash', 'Activity'));
    this.addSql(kept('statement_hash', 'Statements'));

    // A name that is one account's alone is that account from now on; any other stays as the text that it was.
    for (const [table, column] of NAMES)
      this.addSql(
        `update \`${table}\` set \`${column}\` = (select 'account:' || min(a.\`id\`) from \`account\` a where a.\`name\` = \`${table}\`.\`${column}\`) where (select count(*) from \`account\` a where a.\`name\` = \`${table}\`.\`${column}\`) = 1;`,
      );

    this.addSql(`drop index \`course_token_hash_unique\`;`);
    this.addSql(`alter table \`course\` drop column \`token_hash\`;`);
    this.addSql(`alter table \`course\` drop column \`statement_hash\`;`);
  }

}
