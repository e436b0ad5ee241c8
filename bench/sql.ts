/** The ten rules as hand-written SQL over the same data, indexed for them: what a database would do each round. */
import Database from 'libsql';
import type { Course } from '@zest-bell/core/course';
import { EVENT_KINDS, itemOfCode, kindOfCode, VISITS, type History } from '@zest-bell/core/activity';

const VISIT = EVENT_KINDS.flatMap((kind, i) => ((VISITS >> i) & 1 ? [`'${kind}'`] : [])).join();
const latestScore = (item: number) =>
  `(select points * 5.0 from grade g where g.person = p.id and g.item = ${item} and g.at <= :t order by g.at desc limit 1)`;
const grade = `(select 5.0 * avg(points) from grade g where g.person = p.id and g.at <= :t)`;
const missing = (where: string) => `(select count(*) from item i where i.due <= :t ${where}
  and not exists (select 1 from event e where e.person = p.id and e.item = i.id and e.kind = i.act and e.at <= :t)
  and not exists (select 1 from grade g where g.person = p.id and g.item = i.id and g.points > 0 and g.at <= :t))`;
const away = (cutoff: string, kinds: string) =>
  `(:start <= :${cutoff} and not exists (select 1 from event e where e.person = p.id and e.at > :${cutoff} and e.at <= :t ${kinds}))`;
const opens = (item: number) =>
  `(select count(*) from event e where e.person = p.id and e.item = ${item} and e.kind = 'open' and e.at <= :t)`;
const visit = `and e.kind in (${VISIT})`;

const WHERE: readonly string[] = [
  away('d5', visit),
  `${away('d3', visit)} and ${latestScore(3)} <= 50`,
  `${opens(25)} = 0`,
  `${missing('and i.quiz = 1')} >= 2 or ${grade} < 40`,
  `${grade} >= 60 and ${missing('')} <= 10 and not (${away('d3', '')})`,
  away('d7', ''),
  `exists (select 1 from item i where i.id = 8 and i.due - :t <= 172800000 and i.due > :t
    and not exists (select 1 from event e where e.person = p.id and e.item = 8 and e.kind = i.act and e.at <= :t)
    and not exists (select 1 from grade g where g.person = p.id and g.item = 8 and g.points > 0 and g.at <= :t))`,
  `${latestScore(5)} > 95`,
  `${away('d10', visit)} or (${missing('')} >= 12 and ${grade} < 50)`,
  `${opens(30)} >= 3 and ${latestScore(9)} < 60`,
];

export function sql(course: Course, history: History): (t: number) => number[][] {
  const db = new Database(':memory:');
  db.exec(`create table person (id integer primary key);
    create table item (id integer primary key, due real, quiz integer, act text);
    create table event (person integer, kind text, item integer, at real);
    create table grade (person integer, item integer, points real, at real);
    begin;`);
  const act = { quiz: 'submit', page: 'open', forum: 'post' } as const;
  const addItem = db.prepare('insert into item values (?, ?, ?, ?)');
  course.items.forEach((item, i) =>
    addItem.run([i, item.dueAt, item.group === 'Quizzes' ? 1 : 0, act[item.kind as 'quiz']]),
  );
  const addPerson = db.prepare('insert into person values (?)');
  const addEvent = db.prepare('insert into event values (?, ?, ?, ?)');
  const addGrade = db.prepare('insert into grade values (?, ?, ?, ?)');
  history.people.forEach((log, p) => {
    addPerson.run([p]);
    for (let i = 0; i < log.length; i++) {
      const code = log.codes[i]!;
      addEvent.run([p, kindOfCode(code), itemOfCode(code), log.times[i]!]);
    }
    for (const g of log.grades) addGrade.run([p, g.item, g.points, g.at]);
  });
  db.exec(`commit;
    create index event_item on event (person, item, kind, at);
    create index event_at on event (person, at, kind);
    create index grade_item on grade (person, item, at);
    analyze;`);
  const queries = WHERE.map((where) => db.prepare(`select p.id from person p where ${where} order by p.id`));
  return (t) => {
    const ago = (days: number) => course.calendar.addDays(t, -days);
    const given = { t, start: course.calendar.start, d3: ago(3), d5: ago(5), d7: ago(7), d10: ago(10) };
    return queries.map((q, i) => {
      const named = Object.fromEntries(
        Object.entries(given).filter(([name]) => new RegExp(`:${name}\\b`).test(WHERE[i]!)),
      );
      return (q.all(named) as { id: number }[]).map((r) => r.id);
    });
  };
}
