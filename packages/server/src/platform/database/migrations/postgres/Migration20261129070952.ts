import { Migration } from '@mikro-orm/migrations';

export class Migration20261129070952 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table "source" drop column "busy_until";`);
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "source" add column "busy_until" int8 null;`);
  }

}
