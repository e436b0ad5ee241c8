import { Migration } from '@mikro-orm/migrations';

export class Migration20261128141600 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`wording\` add column \`drafted\` json null;`);
  }

}
