import { Migration } from '@mikro-orm/migrations';

export class Migration20261125041006 extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table \`person\` add column \`paused_until\` bigint null;`);
  }
}
