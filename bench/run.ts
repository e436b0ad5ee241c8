/**
 * The core beside general-purpose rule engines on the same facts, and beside the bare loop that touches each event once,
 * in one run. What counts are the ratios; all must agree on who matches. `npm run bench -- L` takes the large data set,
 * `npm run bench -- start` measures how soon a course is there after a start, `npm run bench -- reach` a drag in the composer,
 * `npm run bench -- people` the table of students, a student’s page and the gradebook,
 * `npm run bench -- mail` the mail of a large round, `npm run bench -- imports` taking in a file, `npm run bench -- exports` making
 * files of a long send log, `npm run bench -- api` what each reading request of a large course takes, `npm run bench -- signs`
 * what told early, `npm run bench -- campus` all rounds of a campus at once, on both databases, `npm run bench -- pages` many pages at once,
 * `npm run bench -- saying` reading a rule that was typed, `npm run bench -- places` every place in a browser.
 */
import { DAY, placeFrom, roundInstants, runWhole } from '@zest-bell/core/time';
import type { History } from '@zest-bell/core/activity';
import { callKey, HistoryFacts, valueAt } from '@zest-bell/core/measures';
import { leavesOf, sidesOf } from '@zest-bell/core/conditions';
import { numbersOf, type Rule } from '@zest-bell/core/rules';
import { decide, matchesAt, NudgeLog, replay } from '@zest-bell/core/rounds';
import { hindsightInParts, replayedInParts, variedReplayInParts } from '@zest-bell/core/outcomes';
import { benchCourse, benchHistory, benchRules, LARGE, SMALL } from './data.ts';
import { benchApi } from './api.ts';
import { benchCampus } from './campus.ts';
import { benchExports } from './exports.ts';
import { benchImports } from './imports.ts';
import { benchMail } from './mail.ts';
import { benchPages } from './pages.ts';
import { benchPeople } from './people.ts';
import { benchPlaces } from './places.ts';
import { benchReach } from './reach.ts';
import { benchSaying } from './saying.ts';
import { benchSigns } from './signs.ts';
import { benchStart } from './start.ts';
import { besideGoal, median } from './goals.ts';
import { handWritten } from './handWritten.ts';
import { sql } from './sql.ts';
import { logic, rulesEngine, type FactsOfStudent } from './peers.ts';

const size = process.argv.includes('L') ? LARGE : SMALL;
const ROUNDS = 5;
/** Runs of what is over soon, of which the first few are those of code that is not warm yet. */
const RUNS = size === SMALL ? 60 : 8;

/** The median of several runs, in ms. */
async function time(work: () => unknown, runs = ROUNDS): Promise<number> {
  const taken: number[] = [];
  for (let i = 0; i < runs; i++) {
    const from = performance.now();
    await work();
    taken.push(performance.now() - from);
  }
  return median(taken);
}

/** How many times as long one thing takes as another: several times by turns, as the machine changes its pace in the meantime. */
async function timesAsLong(work: () => unknown, other: () => unknown, runs: number): Promise<number> {
  const ratios: number[] = [];
  for (let turn = 0; turn < 5; turn++) ratios.push((await time(work, runs)) / (await time(other, runs)));
  return median(ratios);
}

/** Touches every event and every cell of the replay once: nothing that does either can be faster. */
function floor(history: History, cells: number): number {
  let sum = 0;
  for (const log of history.people) for (let i = 0; i < log.length; i++) sum += log.times[i]! + log.codes[i]!;
  const touched = new Uint8Array(cells);
  for (let i = 0; i < cells; i++) touched[i] = i & 1;
  return sum + touched[cells - 1]!;
}

/** Who matches each rule at each round: every student's stretches once, and the rounds that lie in them. */
function sweep(facts: HistoryFacts, rules: readonly Rule[], rounds: readonly number[]): number {
  let matches = 0;
  for (const rule of rules) {
    const sides = sidesOf(facts, rule.when);
    for (let i = 0; i < facts.course.people.length; i++) {
      const yes = sides(i, true);
      let at = 0;
      for (let k = 0; k < yes.length; k += 2) {
        at = placeFrom(rounds, yes[k]!, at);
        while (at < rounds.length && rounds[at]! < yes[k + 1]!) {
          matches++;
          at++;
        }
      }
    }
  }
  return matches;
}

function factsAt(facts: HistoryFacts, rules: readonly Rule[], at: number): FactsOfStudent[] {
  const calls = rules.flatMap((r) => leavesOf(r.when));
  return facts.course.people.map((_, i) =>
    Object.fromEntries(calls.map((c) => [callKey(c), valueAt(facts.timeline(i, c), at) as number])),
  );
}

if (process.argv.includes('mail')) await benchMail();
else if (process.argv.includes('imports')) await benchImports(size);
else if (process.argv.includes('exports')) await benchExports();
else if (process.argv.includes('api')) await benchApi();
else if (process.argv.includes('start')) await benchStart(size);
else if (process.argv.includes('reach')) benchReach();
else if (process.argv.includes('people')) benchPeople();
else if (process.argv.includes('saying')) benchSaying();
else if (process.argv.includes('signs')) benchSigns(size);
else if (process.argv.includes('campus')) await benchCampus();
else if (process.argv.includes('pages')) await benchPages();
else if (process.argv.includes('places')) await benchPlaces();
else await benchCore();

async function benchCore(): Promise<void> {
  const course = benchCourse(size);
  const history = benchHistory(course, size);
  const rules = benchRules();
  const at = course.calendar.start + 60 * DAY;
  const facts = new HistoryFacts(course, history);
  const given = factsAt(facts, rules, at);
  // json-logic reads dots in a name as a path.
  const givenLogic = given.map((f) =>
    Object.fromEntries(Object.entries(f).map(([k, v]) => [k.replace(/\./g, '_'), v])),
  );

  const engine = rulesEngine(rules);
  const logical = logic(rules);
  const byHand = handWritten(course, history);
  const database = sql(course, history);
  /** Rule ids of each student, from the students of each rule. */
  const names = (found: readonly (readonly number[])[]) => {
    const out: string[][] = course.people.map(() => []);
    found.forEach((students, k) => students.forEach((i) => out[i]!.push(rules[k]!.id)));
    return out.map((ids) => ids.sort());
  };
  const agree = (name: string, mine: readonly string[][], other: readonly string[][]) => {
    const differing = mine.filter((m, i) => m.join() !== other[i]!.join()).length;
    if (differing > 0) throw new Error(`${name} disagrees on ${differing} students`);
  };
  const matchAll = (t: number) => rules.map((r) => matchesAt(r, facts, t));
  const matches = matchAll(at);
  agree('json-logic-js', names(matches), logical(givenLogic));
  const matching = await time(() => matchAll(at), 15);
  const handMatching = await time(() => byHand(at), 15);
  const sqlMatching = await time(() => database(at), 3);
  const cold = await time(() => decide(rules, new HistoryFacts(course, history), new NudgeLog(), at));
  const decideAll = () => decide(rules, facts, new NudgeLog(), at);
  const warm = await time(decideAll, 9);
  const decision = await timesAsLong(decideAll, () => matchAll(at), RUNS);
  const byEngine = await time(() => engine(given));
  const byLogic = await time(() => logical(givenLogic));
  // A round is over too soon to be timed alone.
  const often = (t: number) => time(() => Array.from({ length: 25 }, () => matchAll(t)), 9);
  const early = await often(course.calendar.start + 10 * DAY);
  const late = await often(course.calendar.start + 100 * DAY);
  const rounds = roundInstants(rules[0]!.rhythm, course.calendar);
  const cells = rounds.length * rules.length * course.people.length;
  const bare = () => floor(history, cells);
  const anewBare = await timesAsLong(() => sweep(new HistoryFacts(course, history), rules, rounds), bare, RUNS);
  const keptBare = await timesAsLong(() => sweep(facts, rules, rounds), bare, RUNS);
  const keptSweep = await time(() => sweep(facts, rules, rounds), 9);
  const coldSweep = await time(() => sweep(new HistoryFacts(course, history), rules, rounds), 9);
  // A replay keeps every decision; on the small data set alone, so that the bench stays short.
  const term =
    size === SMALL ? await timesAsLong(() => replay(rules, new HistoryFacts(course, history)), bare, 3) : null;
  // One number of one rule over twelve values, and hindsight of it, beside its own replay.
  const varied = rules.find((r) => numbersOf(r, course).some((n) => n.unit === 'days'))!;
  const { path } = numbersOf(varied, course).find((n) => n.unit === 'days')!;
  const span = { until: course.calendar.end };
  const outcome = { measure: 'courseGrade', is: '<', value: 60 } as const;
  const anew = () => new HistoryFacts(course, history);
  const oneReplay = () => runWhole(replayedInParts([varied], anew(), span));
  const values = [3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14];
  const varying = { rules: [varied], rule: varied, path, values };
  const twelve = await timesAsLong(() => runWhole(variedReplayInParts(varying, anew(), span)), oneReplay, RUNS / 2);
  const judging = () => runWhole(hindsightInParts(varied, outcome, anew(), { at: span.until }));
  const judged = await timesAsLong(judging, oneReplay, RUNS / 2);

  // The same replay by the peers, round after round; all agree at every one of them.
  let engineReplay = 0;
  let sqlReplay = 0;
  for (const r of rounds) {
    const mine = names(matchAll(r));
    const givenThen = factsAt(facts, rules, r);
    let from = performance.now();
    const engineThen = await engine(givenThen);
    engineReplay += performance.now() - from;
    from = performance.now();
    const sqlThen = database(r);
    sqlReplay += performance.now() - from;
    agree('json-rules-engine', mine, engineThen);
    agree('SQL', mine, names(sqlThen));
    agree('the hand-written evaluator', mine, names(byHand(r)));
  }

  const times = (n: number) => `${n.toFixed(n < 10 ? 1 : 0)}×`;
  const ratio = (a: number, b: number) => times(a / b);
  const rows: (readonly [string, string])[] = [
    ['who matches ten rules now: json-rules-engine takes', `${ratio(byEngine, matching)} as long`],
    ['who matches ten rules now: json-logic-js takes', `${ratio(byLogic, matching)} as long`],
    ['who matches ten rules now: hand-written SQL takes', `${ratio(sqlMatching, matching)} as long`],
    ['who matches ten rules now: it takes', `${ratio(matching, handMatching)} the hand-written evaluator`],
    ['the first round after a start takes', `${ratio(cold, warm)} a later one`],
    [`replay, who matches at all ${rounds.length} rounds, takes`, `${times(keptBare)} the bare loop`],
    [
      'replay: json-rules-engine takes',
      `${ratio(engineReplay, keptSweep)} as long, ${ratio(engineReplay, coldSweep)} anew`,
    ],
    ['replay: hand-written SQL takes', `${ratio(sqlReplay, keptSweep)} as long, ${ratio(sqlReplay, coldSweep)} anew`],
  ];
  rows.push(
    ['one number over twelve values takes', `${times(twelve)} the replay of its rule`],
    ['hindsight of a rule takes', `${times(judged)} its replay`],
  );
  console.log(`Data set ${size.name}: ${size.students} students, ${history.eventCount} events, ${rules.length} rules.`);
  console.log(`All agree on who matches, at every round.\n`);
  for (const [what, figure] of rows) console.log(`${what.padEnd(62)} ${figure}`);
  const atMost = (most: number) => ({ unit: '×', atMost: most });
  besideGoal('the whole decision (limits, steps), beside its matching', decision, atMost(3));
  besideGoal('who matches in week 15, beside week 2', late / early, atMost(1));
  besideGoal('who matches at all rounds, timelines anew, beside the bare loop', anewBare, atMost(3));
  if (term !== null) besideGoal('a replay with every decision, beside the bare loop', term, atMost(20));
  const { maxRSS } = process.resourceUsage();
  besideGoal('memory, with the copies for the others', maxRSS / 1024, { unit: 'MiB', atMost: 1024 });
}
