import { Migration } from '@mikro-orm/migrations';

export class Migration20261127134241 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`course\` add column \`letters\` json null;`);
  }

}
