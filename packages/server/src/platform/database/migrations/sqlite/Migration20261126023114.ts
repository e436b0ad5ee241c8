import { Migration } from '@mikro-orm/migrations';

export class Migration20261126023114 extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table \`nudge\` add column \`edited\` json null;`);
    this.addSql(`alter table \`nudge\` add column \`later_until\` bigint null;`);
    this.addSql(`alter table \`nudge\` add column \`decided_by\` text null;`);
    this.addSql(`alter table \`nudge\` add column \`dismissed_for\` text null;`);
  }
}
