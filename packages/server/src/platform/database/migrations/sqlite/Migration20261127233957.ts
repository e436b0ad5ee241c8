import { Migration } from '@mikro-orm/migrations';

export class Migration20261127233957 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`course\` add column \`facts_version\` integer not null default 1;`);
    this.addSql(`alter table \`course\` add column \`settings_version\` integer not null default 1;`);
  }

}
