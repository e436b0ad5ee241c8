import { Migration } from '@mikro-orm/migrations';

export class Migration20261130161833 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table "nudge" add column "came" text null;`);
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "nudge" drop column "came";`);
  }

}
