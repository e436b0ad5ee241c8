import { Migration } from '@mikro-orm/migrations';

export class Migration20261129070949 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`source\` drop column \`busy_until\`;`);
  }

}
