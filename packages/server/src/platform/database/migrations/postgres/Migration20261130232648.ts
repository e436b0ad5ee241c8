import { Migration } from '@mikro-orm/migrations';

export class Migration20261130232648 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table "account" add column "tour_over" boolean not null default false;`);
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "account" drop column "tour_over";`);
  }

}
