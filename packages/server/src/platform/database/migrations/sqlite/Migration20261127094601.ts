import { Migration } from '@mikro-orm/migrations';

export class Migration20261127094601 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`sending\` (\`id\` integer not null primary key autoincrement, \`account\` integer not null, \`course\` integer not null, \`kind\` text not null, \`words\` text not null, \`until\` bigint not null, \`course_until\` bigint not null, \`take_back\` json not null);`,
    );
    this.addSql(`create index \`sending_until_index\` on \`sending\` (\`until\`);`);

    this.addSql(`alter table \`account\` add column \`send_delay\` integer not null default 10;`);

    this.addSql(`alter table \`message\` add column \`sending\` integer null;`);
    this.addSql(`alter table \`message\` add column \`bundle\` text null;`);
    this.addSql(`create index \`message_sending_index\` on \`message\` (\`sending\`);`);
    this.addSql(`create index \`message_bundle_index\` on \`message\` (\`bundle\`);`);

    this.addSql(`alter table \`plain_mail\` add column \`sending\` integer null;`);
  }
}
