import { Migration } from '@mikro-orm/migrations';

export class Migration20261128042549 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`course\` add column \`archived_at\` bigint null;`);
  }

}
