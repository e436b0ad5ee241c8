import { Migration } from '@mikro-orm/migrations';

export class Migration20261126012052 extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table \`course_change\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`kind\` text not null, \`at\` bigint not null, \`by\` text not null, \`title\` text not null, \`changes\` json not null, \`events\` integer not null default 0, \`grades\` integer not null default 0, \`retracted\` integer not null default 0, \`first_event\` integer null, \`last_event\` integer null, \`first_grade\` integer null, \`last_grade\` integer null, \`undone_by\` integer null);`,
    );
    this.addSql(`create index \`course_change_course_id_index\` on \`course_change\` (\`course\`, \`id\`);`);

    this.addSql(
      `create table \`import_bytes\` (\`import\` integer not null primary key autoincrement, \`bytes\` blob not null);`,
    );

    this.addSql(
      `create table \`import_memory\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`headers\` text not null, \`decisions\` json not null);`,
    );
    this.addSql(
      `create unique index \`import_memory_course_headers_unique\` on \`import_memory\` (\`course\`, \`headers\`);`,
    );

    this.addSql(
      `create table \`import\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`by\` text not null, \`name\` text not null, \`at\` bigint not null, \`state\` text not null, \`way\` text not null, \`decisions\` json not null, \`change\` integer null, \`report\` json null, \`trouble\` text null);`,
    );
    this.addSql(`create index \`import_course_id_index\` on \`import\` (\`course\`, \`id\`);`);

    this.addSql(
      `create table \`retracted\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`change\` integer not null, \`fact\` text not null, \`event_id\` text not null, \`person\` text not null, \`kind\` text null, \`item\` text null, \`criterion\` text null, \`points\` double null, \`at\` bigint not null, \`retracted_at\` bigint not null, \`by\` text not null, \`reason\` text not null);`,
    );
    this.addSql(`create index \`retracted_course_person_index\` on \`retracted\` (\`course\`, \`person\`);`);
    this.addSql(`create index \`retracted_course_change_index\` on \`retracted\` (\`course\`, \`change\`);`);
    this.addSql(
      `create unique index \`retracted_course_fact_event_id_unique\` on \`retracted\` (\`course\`, \`fact\`, \`event_id\`);`,
    );

    this.addSql(
      `create table \`statement\` (\`id\` integer not null primary key autoincrement, \`course\` integer not null, \`statement\` text not null, \`json\` text not null, \`digest\` text not null, \`actor\` text not null, \`verb\` text not null, \`activity\` text null, \`registration\` text null, \`stored_at\` bigint not null, \`voided\` integer not null default false, \`state\` text not null, \`about\` text null, \`said\` text null, \`why\` text null);`,
    );
    this.addSql(`create index \`statement_course_id_index\` on \`statement\` (\`course\`, \`id\`);`);
    this.addSql(`create index \`statement_course_state_id_index\` on \`statement\` (\`course\`, \`state\`, \`id\`);`);
    this.addSql(`create index \`statement_course_stored_at_index\` on \`statement\` (\`course\`, \`stored_at\`);`);
    this.addSql(
      `create unique index \`statement_course_statement_unique\` on \`statement\` (\`course\`, \`statement\`);`,
    );

    this.addSql(`alter table \`course\` add column \`sender_confirmed\` integer not null default true;`);
    this.addSql(`alter table \`course\` add column \`retractions\` integer not null default 0;`);
    this.addSql(`alter table \`course\` add column \`statement_hash\` text null;`);
    this.addSql(`alter table \`course\` add column \`meanings\` json not null default '{}';`);
    this.addSql(`alter table \`course\` add column \`watched\` integer not null default false;`);
    this.addSql(`alter table \`course\` add column \`sources\` json not null default '{}';`);

    this.addSql(`alter table \`activity_event\` add column \`change\` integer null;`);

    this.addSql(`alter table \`grade\` add column \`change\` integer null;`);

    this.addSql(`alter table \`activity_segment\` add column \`retractions\` integer not null default 0;`);
  }
}
