import { Migration } from '@mikro-orm/migrations';

export class Migration20261128191915 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`course\` add column \`worry\` json null;`);
  }

}
