import { Migration } from '@mikro-orm/migrations';

export class Migration20261125012741 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`activity_segment\` (\`course\` integer not null primary key autoincrement, \`last_event\` integer not null, \`last_grade\` integer not null, \`columns\` blob not null);`,
    );
  }
}
