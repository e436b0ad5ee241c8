import { Migration } from '@mikro-orm/migrations';

export class Migration20261128101345 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`course_access\` (\`course\` integer not null primary key autoincrement, \`assistants_decide\` integer not null default false);`);

    this.addSql(`alter table \`account\` add column \`is_administrator\` integer not null default false;`);

    // Who worked in a course as its instructor owns it; the first account keeps the installation.
    this.addSql(`update \`access\` set \`role\` = 'owner' where \`role\` = 'instructor';`);
    this.addSql(`update \`account\` set \`is_administrator\` = 1 where \`id\` = (select min(\`id\`) from \`account\`);`);
  }

}
