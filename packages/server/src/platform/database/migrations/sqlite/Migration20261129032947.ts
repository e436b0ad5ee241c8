import { Migration } from '@mikro-orm/migrations';

export class Migration20261129032947 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`hits\` (\`name\` text not null, \`count\` integer not null, \`until\` bigint not null, primary key (\`name\`));`);
    this.addSql(`create index \`hits_until_index\` on \`hits\` (\`until\`);`);
  }

}
