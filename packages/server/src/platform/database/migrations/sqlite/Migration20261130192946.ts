import { Migration } from '@mikro-orm/migrations';

export class Migration20261130192946 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`course\` add column \`former_items\` json null;`);
  }

}
