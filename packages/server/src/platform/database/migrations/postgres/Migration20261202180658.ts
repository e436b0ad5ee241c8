import { Migration } from '@mikro-orm/migrations';

export class Migration20261202180658 extends Migration {

  override async up(): Promise<void> {
    this.addSql(`drop index "nudge_course_student_round_at_index";`);

    this.addSql(`create index "nudge_course_student_round_at_state_to_student_index" on "nudge" ("course", "student", "round_at", "state", "to_student");`);
    this.addSql(`create index "nudge_course_id_index" on "nudge" ("course", "id");`);
  }

  override async down(): Promise<void> {
    this.addSql(`drop index "nudge_course_student_round_at_state_to_student_index";`);
    this.addSql(`drop index "nudge_course_id_index";`);

    this.addSql(`create index "nudge_course_student_round_at_index" on "nudge" ("course", "student", "round_at");`);
  }

}
