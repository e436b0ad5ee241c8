import { Migration } from '@mikro-orm/migrations';

export class Migration20261130043016 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`address_code\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`address\` text not null, \`mark\` text not null, \`tries\` integer not null default 0, \`at\` bigint not null, \`ends_at\` bigint not null);`);
    this.addSql(`create index \`address_code_ends_at_index\` on \`address_code\` (\`ends_at\`);`);
    this.addSql(`create index \`address_code_account_at_index\` on \`address_code\` (\`account\`, \`at\`);`);
    this.addSql(`create index \`address_code_address_at_index\` on \`address_code\` (\`address\`, \`at\`);`);

    this.addSql(`create table \`known_pair\` (\`key\` text not null, \`until\` bigint not null, primary key (\`key\`));`);
    this.addSql(`create index \`known_pair_until_index\` on \`known_pair\` (\`until\`);`);

    this.addSql(`create table \`proven_address\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`address\` text not null, \`how\` text not null, \`at\` bigint not null);`);
    this.addSql(`create unique index \`proven_address_account_address_unique\` on \`proven_address\` (\`account\`, \`address\`);`);

    this.addSql(`alter table \`account\` add column \`is_unproven\` integer not null default false;`);

    this.addSql(`alter table \`act\` add column \`count\` integer not null default 1;`);
    this.addSql(`alter table \`act\` add column \`tally\` text null;`);
    this.addSql(`create unique index \`act_tally_unique\` on \`act\` (\`tally\`);`);

    this.addSql(`alter table \`course\` add column \`sender_by\` integer null;`);

    this.addSql(`alter table \`installation\` add column \`sender_name\` text null;`);
    this.addSql(`alter table \`installation\` add column \`sender_address\` text null;`);
    this.addSql(`alter table \`installation\` add column \`sender_domains\` json not null default '[]';`);
    this.addSql(`alter table \`installation\` add column \`courses_by\` text not null default 'proven';`);
    this.addSql(`alter table \`installation\` add column \`course_makers\` json not null default '[]';`);
    this.addSql(`alter table \`installation\` add column \`fingerprint\` text null;`);

    this.addSql(`alter table \`link\` add column \`is_shown\` integer not null default false;`);

    this.addSql(`alter table \`own_sender\` add column \`is_checked\` integer not null default false;`);

    this.addSql(`alter table \`platform\` add column \`trusts_addresses\` integer not null default false;`);

    this.addSql(`alter table \`sign_in_try\` add column \`ends_at\` bigint not null default 0;`);
    this.addSql(`create index \`sign_in_try_ends_at_index\` on \`sign_in_try\` (\`ends_at\`);`);
  }

}
