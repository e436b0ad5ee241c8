import { Migration } from '@mikro-orm/migrations';

export class Migration20261128215639 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`message\` add column \`begun_at\` bigint null;`);
    // Until now a row of the log alone told that a message may have left.
    this.addSql(`update \`message\` set \`begun_at\` = 1 where \`state\` = 'handing'
      and exists (select 1 from \`attempt\` as a where a.\`message\` = \`message\`.\`id\` and a.\`outcome\` = 'handing');`);
  }

}
