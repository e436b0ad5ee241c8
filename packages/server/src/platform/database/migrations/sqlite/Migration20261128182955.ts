import { Migration } from '@mikro-orm/migrations';

export class Migration20261128182955 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`registration_code\` (\`hash\` text not null, \`origin\` text not null, \`ends_at\` bigint not null, primary key (\`hash\`));`);

    this.addSql(`alter table \`platform\` add column \`approved_at\` bigint null;`);
    // Those that are there were registered by an administrator.
    this.addSql(`update \`platform\` set \`approved_at\` = \`added_at\`;`);

    this.addSql(`create index \`statement_course_standard_stored_at_index\` on \`statement\` (\`course\`, \`standard\`, \`stored_at\`);`);
  }

}
