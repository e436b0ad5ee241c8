/** What a term leaves behind, written straight into the file of a database. */
import Database from 'libsql';
import { CourseHistory } from '../packages/server/dist/course/activity/courseHistory.js';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import type { Course } from '@zest-bell/core/course';
import { itemOfCode, kindOfCode, type History } from '@zest-bell/core/activity';

/** The rows as the ingestion route stores them, written straight to the file. */
export function fillHistory(file: string, id: number, course: Course, history: History): void {
  const db = new Database(file);
  db.exec('pragma busy_timeout = 20000');
  const { people, items } = course;
  const event = db.prepare(
    'insert into activity_event (course, event_id, person, kind, item, at) values (?, ?, ?, ?, ?, ?)',
  );
  const grade = db.prepare('insert into grade (course, event_id, person, item, points, at) values (?, ?, ?, ?, ?, ?)');
  db.exec('begin');
  history.people.forEach((log, p) => {
    const person = people[p]!.id;
    for (let i = 0; i < log.length; i++) {
      const item = items[itemOfCode(log.codes[i]!)]?.id ?? null;
      event.run([id, `${p}-${i}`, person, kindOfCode(log.codes[i]!), item, log.times[i]!]);
    }
    log.grades.forEach((g, i) => grade.run([id, `${p}-g${i}`, person, items[g.item]!.id, g.points, g.at]));
  });
  db.exec('commit');
  db.close();
}

/** Straight into the file: what a round and the mail after it leave behind. */
export function fillLog(
  file: string,
  {
    course,
    nudges,
    students,
    first,
  }: { readonly course: number; readonly nudges: number; readonly students: number; readonly first: number },
): void {
  const db = new Database(file);
  db.exec('pragma busy_timeout = 20000');
  const words = 'How are things going? If something is in the way, reply to this message. '.repeat(6);
  const nudge = db.prepare(
    `insert into nudge (id, course, idempotency_key, rule, rule_version, student, round_at, step, spell_start, state, to_student,
       wording, subject, last_at, evidence) values (?, ?, ?, 'away', 1, ?, ?, 0, ?, 'sent', 1, 'gentle', 'A quiet week', ?, '[]')`,
  );
  const message = db.prepare(
    `insert into message (id, nudge, course, kind, lead, reader, name, address, state, send_at, attempts, settled_at)
       values (?, ?, ?, 'student', 1, 'student', ?, ?, 'sent', ?, 1, ?)`,
  );
  const attempt = db.prepare(
    `insert into attempt (course, message, nudge, at, outcome, response, message_id, recipient_name, address, from_address, reply_to,
       subject, body, html, files, evidence) values (?, ?, ?, ?, 'sent', '250 OK', ?, ?, ?, 'ada@x.example', 'ada@x.example',
       'A quiet week', ?, ?, '[]', '[]')`,
  );
  db.exec('begin');
  for (let i = 1; i <= nudges; i++) {
    const [who, when] = [`s${i % students}`, first + i * 30_000];
    nudge.run([i, course, `bench ${i}`, who, when, when, when]);
    message.run([i, i, course, who, `${who}@x.example`, when, when]);
    attempt.run([course, i, i, when, `<${i}@x.example>`, who, `${who}@x.example`, words, `<p>${words}</p>`]);
  }
  db.exec('commit');
  db.close();
}

/** Writes the columns of a course, as a server that knows it does within a minute. */
export async function saveColumns(file: string, course: number): Promise<void> {
  const orm = await readyDatabase(file);
  const history = await CourseHistory.open(orm.em.fork(), course, 0);
  await history.readOn(orm.em.fork());
  await history.save(orm);
  await orm.close();
}
