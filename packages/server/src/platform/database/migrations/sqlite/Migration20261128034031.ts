import { Migration } from '@mikro-orm/migrations';

export class Migration20261128034031 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`carry\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`source\` integer not null, \`source_code\` text not null, \`source_title\` text not null, \`at\` bigint not null, \`by\` text not null, \`along\` json not null, \`ticked\` json not null default '{"rules":[],"wordings":[],"sender":false}', \`dismissed_at\` bigint null, \`undone_at\` bigint null);`);
    this.addSql(`create index \`carry_course_id_index\` on \`carry\` (\`course\`, \`id\`);`);
  }

}
