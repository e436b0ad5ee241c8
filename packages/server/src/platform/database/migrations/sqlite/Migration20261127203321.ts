import { Migration } from '@mikro-orm/migrations';

export class Migration20261127203321 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`course\` add column \`copy_from\` bigint null;`);
  }

}
