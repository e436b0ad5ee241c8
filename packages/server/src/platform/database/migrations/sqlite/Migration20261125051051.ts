import { Migration } from '@mikro-orm/migrations';

export class Migration20261125051051 extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table \`reply\` add column \`claimed_by\` text null;`);
  }
}
