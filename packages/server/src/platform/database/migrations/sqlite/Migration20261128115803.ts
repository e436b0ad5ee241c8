import { Migration } from '@mikro-orm/migrations';

export class Migration20261128115803 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`rule\` add column \`drafted\` json null;`);
  }

}
