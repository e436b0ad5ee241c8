import { Migration } from '@mikro-orm/migrations';

export class Migration20261128071457 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`rules_file\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`name\` text not null, \`document\` json not null, \`at\` bigint not null);`);
    this.addSql(`create index \`rules_file_course_index\` on \`rules_file\` (\`course\`);`);
  }

}
