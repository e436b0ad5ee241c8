import { Migration } from '@mikro-orm/migrations';

export class Migration20261130192952 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table "course" add column "former_items" text null;`);
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "course" drop column "former_items";`);
  }

}
