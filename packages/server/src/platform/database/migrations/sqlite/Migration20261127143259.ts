import { Migration } from '@mikro-orm/migrations';

export class Migration20261127143259 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`retracted\` add column \`brought_by\` integer null;`);
  }

}
