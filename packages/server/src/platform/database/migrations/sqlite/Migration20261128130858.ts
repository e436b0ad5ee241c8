import { Migration } from '@mikro-orm/migrations';

export class Migration20261128130858 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`token\` add column \`feeds\` text null;`);
    // Those that the course's data page made are told by their names until now.
    this.addSql(`update \`token\` set \`feeds\` = 'activity' where \`name\` = 'Activity' and \`capabilities\` = '["data.write"]';`);
    this.addSql(`update \`token\` set \`feeds\` = 'statements' where \`name\` = 'Statements' and \`capabilities\` = '["data.write"]';`);
  }

}
