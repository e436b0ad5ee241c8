import { Migration } from '@mikro-orm/migrations';

export class Migration20261125023456 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`round_trouble\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`rule\` text not null, \`since\` bigint not null, \`attempts\` integer not null, \`next_try_at\` bigint not null, \`message\` text not null);`,
    );
    this.addSql(
      `create unique index \`round_trouble_course_rule_unique\` on \`round_trouble\` (\`course\`, \`rule\`);`,
    );

    this.addSql(
      `alter table \`course\` add column \`guards\` json not null default '{"askAbove":0.5,"staleHours":null}';`,
    );
    this.addSql(`alter table \`course\` add column \`heard_at\` bigint null;`);
    this.addSql(`alter table \`course\` add column \`stopped_at\` bigint null;`);
    this.addSql(`alter table \`course\` add column \`stopped_by\` text null;`);

    this.addSql(`alter table \`rule\` add column \`archived_at\` bigint null;`);
  }
}
