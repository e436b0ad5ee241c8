import { Migration } from '@mikro-orm/migrations';

export class Migration20261130232641 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`account\` add column \`tour_over\` integer not null default false;`);
  }

}
