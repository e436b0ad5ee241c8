import { Migration } from '@mikro-orm/migrations';

export class Migration20261126150654 extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table \`plain_mail\` add column \`nudge\` integer null;`);
    // Replies from before they could be answered here were dealt with elsewhere.
    this.addSql(`update \`reply\` set \`settled_at\` = \`at\`, \`settled_by\` = '';`);
  }
}
