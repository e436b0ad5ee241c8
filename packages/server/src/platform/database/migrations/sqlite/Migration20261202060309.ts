import { Migration } from '@mikro-orm/migrations';

export class Migration20261202060309 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`directory_account\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`issuer\` text not null, \`subject\` text not null, \`at\` bigint not null);`);
    this.addSql(`create index \`directory_account_account_index\` on \`directory_account\` (\`account\`);`);
    this.addSql(`create unique index \`directory_account_issuer_subject_unique\` on \`directory_account\` (\`issuer\`, \`subject\`);`);

    this.addSql(`create table \`directory\` (\`id\` integer not null primary key autoincrement, \`issuer\` text null, \`client_id\` text null, \`secret\` text null, \`name\` text not null, \`trusts_addresses\` integer not null default false, \`admits\` json null, \`acr\` json not null, \`amr\` json not null, \`passwords_off\` integer not null default false);`);

    this.addSql(`create table \`joined_account\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`to_account\` integer not null, \`at\` bigint not null, \`parts\` json not null);`);
    this.addSql(`create unique index \`joined_account_account_unique\` on \`joined_account\` (\`account\`);`);
    this.addSql(`create index \`joined_account_to_account_index\` on \`joined_account\` (\`to_account\`);`);
  }

}
