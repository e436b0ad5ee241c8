import { Migration } from '@mikro-orm/migrations';

export class Migration20261128151841 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`statement\` add column \`standard\` text not null default 'xapi';`);
  }

}
