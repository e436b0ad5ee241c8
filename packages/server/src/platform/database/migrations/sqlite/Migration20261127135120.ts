import { Migration } from '@mikro-orm/migrations';

export class Migration20261127135120 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`import_memory\` add column \`names\` json not null default '[]';`);
    this.addSql(`alter table \`import_memory\` add column \`taken_at\` bigint not null default 0;`);
  }

}
