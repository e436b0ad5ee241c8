import { Migration } from '@mikro-orm/migrations';

export class Migration20261125040611 extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table \`message\` add column \`variant\` integer null;`);

    this.addSql(`alter table \`wording\` add column \`variants\` json not null default '[]';`);
  }
}
