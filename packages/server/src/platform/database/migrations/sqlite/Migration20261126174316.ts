import { Migration } from '@mikro-orm/migrations';

export class Migration20261126174316 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`trial_course\` (\`id\` integer not null primary key autoincrement, \`trial\` integer not null, \`course\` integer not null, \`wording\` text not null);`,
    );
    this.addSql(`create index \`trial_course_course_wording_index\` on \`trial_course\` (\`course\`, \`wording\`);`);
    this.addSql(
      `create unique index \`trial_course_trial_course_unique\` on \`trial_course\` (\`trial\`, \`course\`);`,
    );

    this.addSql(
      `create table \`trial_draw\` (\`id\` integer not null primary key autoincrement, \`trial\` integer not null, \`course\` integer not null, \`place\` integer not null, \`student\` text not null, \`text\` integer not null, \`at\` bigint not null);`,
    );
    this.addSql(
      `create unique index \`trial_draw_trial_course_student_unique\` on \`trial_draw\` (\`trial\`, \`course\`, \`student\`);`,
    );
    this.addSql(
      `create unique index \`trial_draw_trial_course_place_unique\` on \`trial_draw\` (\`trial\`, \`course\`, \`place\`);`,
    );

    this.addSql(
      `create table \`trial\` (\`id\` integer not null primary key autoincrement, \`seed\` text not null, \`texts\` json not null, \`points\` integer not null, \`needed\` integer not null, \`started_at\` bigint not null, \`started_by\` text not null, \`ended_at\` bigint null);`,
    );
  }
}
