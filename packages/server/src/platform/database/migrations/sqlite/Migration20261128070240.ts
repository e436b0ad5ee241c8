import { Migration } from '@mikro-orm/migrations';

export class Migration20261128070240 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`attempt\` add column \`sent_with\` json null;`);
  }

}
