import { Migration } from '@mikro-orm/migrations';

export class Migration20261127160019 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`alter table \`import\` add column \`file\` text null;`);
    // Bytes lie on disk from now on: a file that lay open is brought again.
    this.addSql(`delete from \`import_bytes\` where \`import\` in (select \`id\` from \`import\` where \`state\` = 'open');`);
    this.addSql(`update \`import\` set \`state\` = 'refused', \`trouble\` = 'This file lay open while Zest Bell was brought up to date. Bring it in again.' where \`state\` = 'open';`);
  }

}
