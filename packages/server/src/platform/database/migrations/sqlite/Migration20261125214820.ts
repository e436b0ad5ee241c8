import { Migration } from '@mikro-orm/migrations';

export class Migration20261125214820 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`aside\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`student\` text not null, \`until\` bigint not null, \`note\` text not null, \`set_by\` text not null, \`set_at\` bigint not null);`,
    );
    this.addSql(`create unique index \`aside_course_student_unique\` on \`aside\` (\`course\`, \`student\`);`);

    this.addSql(`alter table \`nudge\` add column \`passed\` json null;`);
    this.addSql(`alter table \`nudge\` add column \`passed_by\` text null;`);
  }
}
