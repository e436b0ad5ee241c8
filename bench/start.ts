/** How soon a course is there after a start: from its columns, beside from its rows. `npm run bench -- start` (add L). */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { inTransaction } from '../packages/server/dist/platform/database/transaction.js';
import { CourseHistory } from '../packages/server/dist/course/activity/courseHistory.js';
import { LiveCourses } from '../packages/server/dist/course/activity/live.js';
import { withCourse } from '../packages/server/dist/course/repository.js';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import { benchCourse, benchHistory, benchRules, LARGE, type BenchSize } from './data.ts';
import { fillHistory } from './filling.ts';
import { besideGoal } from './goals.ts';
import { DAY } from '@zest-bell/core/time';
import { matchesAt } from '@zest-bell/core/rounds';

export async function benchStart(size: BenchSize): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  const file = join(folder, 'zest-bell.db');
  const orm = await readyDatabase(file);
  const course = benchCourse(size);
  const history = benchHistory(course, size);
  const sender = { name: 'A', address: 'a@x.example', replyTo: 'a@x.example', signature: '', officeHours: '' };
  await inTransaction(orm, (em) => withCourse(em, course, { sender, tokenHash: 'none' }, () => Promise.resolve()));
  fillHistory(file, 1, course, history);

  const timed = async <T>(work: () => Promise<T>): Promise<[number, T]> => {
    const from = performance.now();
    const result = await work();
    return [performance.now() - from, result];
  };
  const get = () => new LiveCourses().get(orm.em.fork(), 1);
  const [rows, fromRows] = await timed(get);
  const whole = await CourseHistory.open(orm.em.fork(), 1, 0);
  await whole.readOn(orm.em.fork());
  const [saving] = await timed(() => whole.save(orm));
  const starts: number[] = [];
  let live = fromRows;
  for (let i = 0; i < 5; i++) {
    const [ms, result] = await timed(get);
    starts.push(ms);
    live = result;
  }
  const columns = starts.sort((a, b) => a - b)[2]!;
  const at = course.calendar.start + 60 * DAY;
  for (const rule of benchRules()) {
    if (matchesAt(rule, fromRows.facts, at).join() !== matchesAt(rule, live.facts, at).join()) {
      throw new Error('The columns say something else than the rows');
    }
  }
  console.log(`Data set ${size.name}: ${history.eventCount} events in the database.`);
  const sooner = { unit: '× as soon', atLeast: size === LARGE ? 29 : 22 };
  besideGoal('a course is there from its columns, beside from its rows', rows / columns, sooner);
  console.log(`${'writing the columns takes'.padEnd(62)} ${(saving / columns).toFixed(1)}× a start from them`);
  console.log(`\nPeak memory ${Math.round(process.resourceUsage().maxRSS / 1024)} MiB.`);
  await orm.close();
  rmSync(folder, { recursive: true, force: true });
}
