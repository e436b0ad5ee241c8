import { Migration } from '@mikro-orm/migrations';

export class Migration20261128113209 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`erased\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`marks\` json not null, \`stands_as\` text not null, \`at\` bigint not null, \`by\` text not null, \`who\` text null, \`allowed_at\` bigint null, \`backups\` json not null default '[]');`);
    this.addSql(`create index \`erased_course_index\` on \`erased\` (\`course\`);`);
  }

}
