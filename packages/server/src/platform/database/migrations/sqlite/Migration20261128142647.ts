import { Migration } from '@mikro-orm/migrations';

export class Migration20261128142647 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`course\` add column \`keep_months\` integer null;`);
  }

}
