import { Migration } from '@mikro-orm/migrations';

export class Migration20261130161827 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`nudge\` add column \`came\` json null;`);
  }

}
