import { Migration } from '@mikro-orm/migrations';

export class Migration20261128105638 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`installation\` (\`id\` integer not null primary key autoincrement, \`factor_required\` integer not null default false, \`keep_months\` integer not null default 24);`);

    this.addSql(`create table \`link\` (\`id\` integer not null primary key autoincrement, \`kind\` text not null, \`hash\` text not null, \`email\` text not null, \`course\` integer null, \`role\` text null, \`by\` text null, \`at\` bigint not null, \`ends_at\` bigint not null, \`used_at\` bigint null);`);
    this.addSql(`create unique index \`link_hash_unique\` on \`link\` (\`hash\`);`);
    this.addSql(`create index \`link_course_index\` on \`link\` (\`course\`);`);

    this.addSql(`create table \`passkey\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`name\` text not null, \`credential\` text not null, \`public_key\` text not null, \`counter\` bigint not null, \`at\` bigint not null, \`used_at\` bigint null);`);
    this.addSql(`create index \`passkey_account_index\` on \`passkey\` (\`account\`);`);
    this.addSql(`create unique index \`passkey_credential_unique\` on \`passkey\` (\`credential\`);`);

    this.addSql(`create table \`recovery_code\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`hash\` text not null);`);
    this.addSql(`create index \`recovery_code_account_index\` on \`recovery_code\` (\`account\`);`);

    this.addSql(`alter table \`account\` add column \`totp\` text null;`);
    this.addSql(`alter table \`account\` add column \`totp_used\` integer null;`);

    this.addSql(`alter table \`session\` add column \`since\` bigint not null default 0;`);
    this.addSql(`alter table \`session\` add column \`seen_at\` bigint not null default 0;`);
    this.addSql(`alter table \`session\` add column \`from\` text not null default '';`);
    this.addSql(`alter table \`session\` add column \`browser\` text not null default '';`);
  }

}
