/** Who gets which text of a wording while a fair trial of it runs. */
import type { Instant } from '@zest-bell/core/time';
import { drawTexts } from '@zest-bell/core/outcomes';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { inSlices, runReturning } from '../../platform/database/query.ts';
import { TrialCourseRow, TrialDrawRow, TrialRow, trialDrawHolds } from './entity.ts';

/** A draw that was made and is not written yet. */
export interface Draw {
  readonly trial: number;
  readonly place: number;
  readonly text: number;
}

/** The draws of a running trial in one course, of some students. */
export class OpenTrial {
  private readonly trial: Pick<TrialRow, 'id' | 'seed' | 'texts'>;
  private readonly course: number;
  private readonly drawn: ReadonlyMap<string, number>;
  private readonly fresh = new Map<string, Draw>();
  private next: number;

  /** `next` is the place of the next draw. */
  constructor(
    trial: Pick<TrialRow, 'id' | 'seed' | 'texts'>,
    course: number,
    drawn: ReadonlyMap<string, number>,
    next: number,
  ) {
    this.trial = trial;
    this.course = course;
    this.drawn = drawn;
    this.next = next;
  }

  /** A draw that is not written yet; draws of a trial that has ended are left out. */
  keep(student: string, draw: Draw): void {
    if (draw.trial !== this.trial.id) return;
    this.fresh.set(student, draw);
    this.next = Math.max(this.next, draw.place + 1);
  }

  /** The student's text, and the draw it comes from where it is a new one. Null unless the wording has as many texts as the trial. */
  textOf(student: string, texts: number): { readonly text: number; readonly draw: Draw | null } | null {
    if (texts !== this.trial.texts.length) return null;
    const known = this.drawn.get(student);
    if (known !== undefined) return { text: known, draw: null };
    let draw = this.fresh.get(student);
    if (!draw) {
      const place = this.next++;
      const text = drawTexts(`${this.trial.seed} ${this.course}`, texts, place + 1)[place]!;
      draw = { trial: this.trial.id, place, text };
      this.fresh.set(student, draw);
    }
    return { text: draw.text, draw };
  }
}

/** The trials that run with one of these wordings in a course, by wording. */
export async function openTrials(
  em: Em,
  course: number,
  wordings: readonly string[],
  students: readonly string[],
): Promise<ReadonlyMap<string, OpenTrial>> {
  const rows = await em.find(TrialCourseRow, { course, wording: { $in: [...wordings] } }, { disableIdentityMap: true });
  const ids = rows.map((r) => r.trial);
  const running = await em.find(TrialRow, { id: { $in: ids }, endedAt: null }, { disableIdentityMap: true });
  const open = new Map<string, OpenTrial>();
  for (const trial of running) {
    const { wording } = rows.find((r) => r.trial === trial.id)!;
    const where = { trial: trial.id, course };
    const drawn = new Map<string, number>();
    for (const slice of inSlices(students)) {
      const some = await em.find(TrialDrawRow, { ...where, student: { $in: slice } }, { disableIdentityMap: true });
      for (const d of some) drawn.set(d.student, d.text);
    }
    const last = await em.findOne(TrialDrawRow, where, { orderBy: { place: 'desc' }, disableIdentityMap: true });
    open.set(wording, new OpenTrial(trial, course, drawn, last ? last.place + 1 : 0));
  }
  return open;
}

/** Writes draws and tells which are kept; a draw is lost if another process has drawn the place or for the student. */
export async function writeDraws(
  em: Tx<'claim'>,
  made: readonly (Draw & { readonly course: number; readonly student: string })[],
  now: Instant,
): Promise<(draw: Draw & { readonly student: string }) => boolean> {
  if (made.length === 0) return () => true;
  const unique = new Map(made.map((d) => [keyOf(d), d]));
  const written = (await runReturning(
    em,
    trialDrawHolds,
    em
      .getKnex()('trial_draw')
      .insert([...unique.values()].map((d) => ({ ...d, at: now })))
      .onConflict()
      .ignore()
      .returning(['trial', 'place', 'student']),
  )) as readonly { readonly trial: number; readonly place: number; readonly student: string }[];
  const stands = new Set(written.map(keyOf));
  return (draw) => stands.has(keyOf(draw));
}

const keyOf = (d: Pick<Draw, 'trial' | 'place'> & { readonly student: string }): string =>
  `${d.trial} ${d.place} ${d.student}`;
