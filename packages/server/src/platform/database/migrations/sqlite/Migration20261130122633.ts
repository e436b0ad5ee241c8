import { Migration } from '@mikro-orm/migrations';

export class Migration20261130122633 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`notice\` (\`name\` text not null, \`kind\` text not null, \`since\` bigint not null, \`until\` bigint not null, \`says\` text not null, \`clock\` json null, primary key (\`name\`));`);
  }

}
