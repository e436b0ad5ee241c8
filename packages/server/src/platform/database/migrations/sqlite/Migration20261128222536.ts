import { Migration } from '@mikro-orm/migrations';

export class Migration20261128222536 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`lease\` (\`name\` text not null, \`holder\` text not null, \`until\` bigint not null, primary key (\`name\`));`);
  }

}
