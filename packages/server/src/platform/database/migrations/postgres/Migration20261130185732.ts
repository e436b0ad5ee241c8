import { Migration } from '@mikro-orm/migrations';

export class Migration20261130185732 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table "grade" add column "said_again_by" bigint null;`);

    this.addSql(`alter table "import" add column "said_again" bigint null;`);

    this.addSql(`alter table "item" add column "said_again" text null;`);

    this.addSql(`alter table "person" add column "said_again" text null;`);
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "grade" drop column "said_again_by";`);

    this.addSql(`alter table "import" drop column "said_again";`);

    this.addSql(`alter table "item" drop column "said_again";`);

    this.addSql(`alter table "person" drop column "said_again";`);
  }

}
