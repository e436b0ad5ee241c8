/** From an item of the gradebook to those who need a message about it: who they are, a subject that fits, and what to do. */
import { PERCENT_RANGE } from '@zest-bell/core/measures';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { instantWords, percentWords, plural, type Instant } from '@zest-bell/core/time';
import type { Item } from '@zest-bell/core/course';
import { conditionSentence, type Leaf } from '@zest-bell/core/conditions';
import type { WordingPurpose } from '@zest-bell/core/wording';
import type { Dot } from '@zest-bell/core/rounds';
import { itemCondition, itemSubject, type Gradebook, type ItemQuestion } from '@zest-bell/core/lookout';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { useWordings } from '../../lib/queries.ts';
import { useFound } from '../../lib/measures/useFound.ts';
import { DotPlot } from '../../parts/reach/DotPlot.tsx';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Check, NumberField, TextField } from '../../ui/fields.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { useChosen, writeWords } from '../../parts/editing/chosen.ts';
import { cellWords } from '../../parts/editing/GradeCell.tsx';
import { askLookout } from '../../parts/table/desk.ts';
import { lastWritten } from '../../parts/editing/written.ts';
import { ruleFrom } from '../../parts/editing/ruleFrom.ts';

const PURPOSES: Readonly<Record<ItemQuestion['kind'], WordingPurpose>> = {
  notSubmitted: 'reminder',
  notGraded: 'reminder',
  under: 'support',
  over: 'praise',
};

export function ItemDialog(props: {
  readonly here: CourseHere;
  readonly book: Gradebook;
  readonly item: Item;
  readonly at: Instant;
  readonly onClose: () => void;
}) {
  const { here, book, item, at } = props;
  const navigate = useNavigate();
  const wordings = useWordings(here.id);
  const column = book.about.items.indexOf(item.id);
  const summary = book.summary(column);
  const scored = item.points !== null;
  const [question, setQuestion] = useState<ItemQuestion>({ kind: 'notSubmitted' });
  // Null until it is touched: the proposal follows what is chosen.
  const [typed, setTyped] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const { timeZone } = here.course;
  const subject = typed ?? itemSubject(item, question, here.now, timeZone);
  const when = useMemo(() => itemCondition(item, question), [item, question]);
  const found = useFound(here, when, at);
  const n = found?.length ?? 0;
  const who = conditionSentence(when, here.course);
  const scoreLeaf: Leaf | null = question.kind === 'under' || question.kind === 'over' ? (when as Leaf) : null;
  const dots = useMemo(() => dotsOf(book, item, question, here), [book, item, question, here]);
  const write = () => {
    useChosen.getState().choose({ course: here.id, students: found!, who, about: who, subject });
    void navigate(`/c/${here.id}/write`);
  };
  const makeRule = async () => {
    setBusy(true);
    const name = `${item.title}: ${QUESTION_WORDS[question.kind].toLowerCase()}`.slice(0, 80);
    const card = await ruleFrom(here, wordings.data ?? [], {
      name,
      when,
      purpose: PURPOSES[question.kind],
      written: lastWritten(here.id, who),
    });
    setBusy(false);
    if (card) await navigate(`/c/${here.id}/rules/${card.rule.id}`);
  };
  const toLookout = () => {
    askLookout(here, when);
    void navigate(`/c/${here.id}/students`);
  };
  const middle = Math.round(summary.mean ?? 70);
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={item.title}
      note={
        <>
          {item.dueAt === null ? 'No due date' : `Due ${instantWords(item.dueAt, timeZone)}`}
          {scored && ` · ${plural(item.points, 'point')}`}
          {summary.mean !== null && ` · mean ${percentWords(summary.mean)} of ${plural(summary.graded, 'score')}`}
        </>
      }
      foot={
        <>
          <Button look="main" disabled={n === 0} onClick={write}>
            {writeWords(n)}
          </Button>
          <Button busy={busy} onClick={() => makeRule()}>
            Make it a rule
          </Button>
          <Button look="quiet" onClick={toLookout}>
            See them in Students
          </Button>
        </>
      }
    >
      <div className="grid gap-4 px-6 py-4">
        <div role="group" aria-label="Which students" className="flex flex-wrap gap-1.5">
          <Choice {...{ question, setQuestion }} to={{ kind: 'notSubmitted' }} />
          {scored && (
            <>
              <Choice {...{ question, setQuestion }} to={{ kind: 'notGraded', doneOnly: true }} />
              {summary.graded > 0 && (
                <>
                  <Choice {...{ question, setQuestion }} to={{ kind: 'under', value: middle }} />
                  <Choice {...{ question, setQuestion }} to={{ kind: 'over', value: middle }} />
                </>
              )}
            </>
          )}
        </div>
        {question.kind === 'notGraded' && (
          <Check
            label="Only those who turned it in"
            checked={question.doneOnly}
            onChange={(doneOnly) => setQuestion({ kind: 'notGraded', doneOnly })}
          />
        )}
        {scoreLeaf && (question.kind === 'under' || question.kind === 'over') && (
          <div>
            <div className="w-40">
              <NumberField
                label={question.kind === 'under' ? 'Scored under' : 'Scored over'}
                unit="%"
                {...PERCENT_RANGE}
                value={question.value}
                onChange={(value) => value !== null && setQuestion({ ...question, value })}
              />
            </div>
            <DotPlot
              here={here}
              leaf={scoreLeaf}
              dots={dots}
              onThreshold={(value) => setQuestion({ ...question, value })}
            />
          </div>
        )}
        <section aria-label="Students it finds" aria-live="polite">
          <h3 className="font-bold" data-testid="found">
            {found === null
              ? 'Looking …'
              : n === 0
                ? 'No student matches'
                : `${plural(n, 'student')} of ${summary.counted} ${n === 1 ? 'has' : 'have'} ${FOUND_WORDS[question.kind]}`}
          </h3>
          <ul className="mt-1 max-h-44 overflow-auto text-[14.5px]">
            {(found ?? []).map((student) => (
              <li key={student} className="flex flex-wrap gap-x-3 border-b border-line py-0.5 last:border-b-0">
                <strong>{nameOf(here, student)}</strong>
                <span className="text-ink-2">
                  {cellWords(book.cell(book.about.students.indexOf(student), column), item.points, timeZone)}
                </span>
              </li>
            ))}
          </ul>
        </section>
        <div data-testid="subject">
          <TextField label="Subject" value={subject} onChange={setTyped} />
        </div>
        {typed !== null && (
          <button
            type="button"
            className="-mt-2 justify-self-start text-[14px] font-semibold text-pine underline underline-offset-4"
            onClick={() => setTyped(null)}
          >
            Use the proposed subject
          </button>
        )}
      </div>
    </Dialog>
  );
}

const QUESTION_WORDS: Readonly<Record<ItemQuestion['kind'], string>> = {
  notSubmitted: 'Not turned in',
  notGraded: 'Not graded yet',
  under: 'Scored under',
  over: 'Scored over',
};
const FOUND_WORDS: Readonly<Record<ItemQuestion['kind'], string>> = {
  notSubmitted: 'not turned it in',
  notGraded: 'no grade yet',
  under: 'a lower score',
  over: 'a higher score',
};

function Choice(props: {
  readonly question: ItemQuestion;
  readonly setQuestion: (question: ItemQuestion) => void;
  readonly to: ItemQuestion;
}) {
  const { question, to } = props;
  return (
    <Pill pressed={question.kind === to.kind} onClick={() => question.kind !== to.kind && props.setQuestion(to)}>
      {QUESTION_WORDS[to.kind]}
    </Pill>
  );
}

function dotsOf(book: Gradebook, item: Item, question: ItemQuestion, here: CourseHere): Dot[] {
  if (question.kind !== 'under' && question.kind !== 'over') return [];
  const threshold = question.value;
  const column = book.about.items.indexOf(item.id);
  return book.about.students.flatMap((student, row): Dot[] => {
    if (!here.course.personIndex.has(student)) return [];
    const { score, state } = book.cell(row, column);
    if (state === 'excused' || state === 'before') return [];
    if (score === null) return [{ student, value: null, meets: 'unknown' }];
    const meets = question.kind === 'under' ? score < threshold : score > threshold;
    return [{ student, value: score, meets: meets ? 'all' : 'no' }];
  });
}
