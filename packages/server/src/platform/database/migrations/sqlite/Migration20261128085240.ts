import { Migration } from '@mikro-orm/migrations';

export class Migration20261128085240 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`create table \`sign_in_try\` (\`key\` text not null, \`wrong\` integer not null, \`since\` bigint not null, primary key (\`key\`));`);
    this.addSql(`create index \`sign_in_try_since_index\` on \`sign_in_try\` (\`since\`);`);

    this.addSql(`alter table \`account\` drop column \`wrong_passwords\`;`);
    this.addSql(`alter table \`account\` drop column \`locked_until\`;`);
  }

}
