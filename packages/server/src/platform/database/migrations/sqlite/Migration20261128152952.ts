import { Migration } from '@mikro-orm/migrations';

export class Migration20261128152952 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`launch_account\` (\`id\` integer not null primary key autoincrement, \`platform\` integer not null, \`deployment\` text not null, \`subject\` text not null, \`account\` integer not null);`);
    this.addSql(`create index \`launch_account_account_index\` on \`launch_account\` (\`account\`);`);
    this.addSql(`create unique index \`launch_account_platform_deployment_subject_unique\` on \`launch_account\` (\`platform\`, \`deployment\`, \`subject\`);`);

    this.addSql(`create table \`launch_code\` (\`hash\` text not null, \`session\` json not null, \`leads_to\` text not null, \`ends_at\` bigint not null, primary key (\`hash\`));`);

    this.addSql(`create table \`launch_course\` (\`id\` integer not null primary key autoincrement, \`platform\` integer not null, \`deployment\` text not null, \`context\` text not null, \`course\` integer not null);`);
    this.addSql(`create index \`launch_course_course_index\` on \`launch_course\` (\`course\`);`);
    this.addSql(`create unique index \`launch_course_platform_deployment_context_unique\` on \`launch_course\` (\`platform\`, \`deployment\`, \`context\`);`);

    this.addSql(`create table \`launch_part\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`course\` integer not null, \`role\` text not null);`);
    this.addSql(`create unique index \`launch_part_account_course_unique\` on \`launch_part\` (\`account\`, \`course\`);`);

    this.addSql(`create table \`launch_nonce\` (\`nonce\` text not null, \`ends_at\` bigint not null, primary key (\`nonce\`));`);
    this.addSql(`create index \`launch_nonce_ends_at_index\` on \`launch_nonce\` (\`ends_at\`);`);

    this.addSql(`create table \`platform\` (\`id\` integer not null primary key autoincrement, \`issuer\` text not null, \`client_id\` text not null, \`deployments\` json not null, \`auth_endpoint\` text not null, \`token_endpoint\` text not null, \`jwks_url\` text not null, \`token_audience\` text null, \`frame_origins\` json not null, \`service_origins\` json not null, \`added_at\` bigint not null);`);
    this.addSql(`create unique index \`platform_issuer_client_id_unique\` on \`platform\` (\`issuer\`, \`client_id\`);`);

    this.addSql(`create table \`tool_key\` (\`id\` integer not null primary key autoincrement, \`kid\` text not null, \`public_key\` json not null, \`private_key\` text not null, \`signs_from\` bigint not null);`);
    this.addSql(`create unique index \`tool_key_kid_unique\` on \`tool_key\` (\`kid\`);`);

    this.addSql(`alter table \`account\` add column \`reached_at\` text null;`);

    this.addSql(`alter table \`course\` add column \`days_confirmed\` integer not null default true;`);
  }

}
