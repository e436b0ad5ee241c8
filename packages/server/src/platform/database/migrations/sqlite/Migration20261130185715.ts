import { Migration } from '@mikro-orm/migrations';

export class Migration20261130185715 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`grade\` add column \`said_again_by\` integer null;`);

    this.addSql(`alter table \`import\` add column \`said_again\` integer null;`);

    this.addSql(`alter table \`item\` add column \`said_again\` json null;`);

    this.addSql(`alter table \`person\` add column \`said_again\` json null;`);
  }

}
