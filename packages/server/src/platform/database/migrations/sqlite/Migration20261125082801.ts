import { Migration } from '@mikro-orm/migrations';

export class Migration20261125082801 extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table \`mailbox\` add column \`trouble\` text null;`);
  }
}
