/** What the file leaves open: which order its dates are in, who is meant, which item a column is. */
import {
  fullName,
  plural,
  type OverChoice,
  type ImportDecisions,
  type ImportPreview,
  type ItemChoice,
  type Question,
} from '@zest-bell/core';
import type { Here } from '../app/here.ts';
import { Labelled } from '../ui/fields.tsx';

const MOST = 12;

export function Questions(props: {
  readonly here: Here;
  readonly seen: ImportPreview;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}) {
  const { seen } = props;
  if (seen.questions.length === 0) return null;
  return (
    <section aria-label="Questions about this file" className="mt-3 grid gap-3 rounded-xl bg-zest-soft px-4 py-3">
      <h4 className="text-[15px] font-bold">Answer these to take more of it</h4>
      <div className="grid gap-3 min-[700px]:grid-cols-2">
        {seen.questions.slice(0, MOST).map((q) => (
          <Ask key={JSON.stringify(q)} {...props} question={q} />
        ))}
      </div>
      {seen.questions.length > MOST && (
        <p className="text-[14px] text-ink-2">and {seen.questions.length - MOST} more, once these are answered</p>
      )}
    </section>
  );
}

function Ask(props: {
  readonly here: Here;
  readonly seen: ImportPreview;
  readonly question: Question;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}) {
  const { here, seen, question: q, onDecide } = props;
  const { choices = {} } = seen.decisions;
  switch (q.about) {
    case 'dayOrder':
      return (
        <Labelled label={`${q.column}: which is the day in “${q.example}”?`}>
          {(id) => (
            <select
              id={id}
              className="field"
              defaultValue=""
              onChange={(e) =>
                onDecide({
                  dayOrders: { ...seen.decisions.dayOrders, [q.column]: e.target.value as 'monthFirst' | 'dayFirst' },
                })
              }
            >
              <option value="" disabled>
                Choose …
              </option>
              <option value="monthFirst">The month comes first, as in the United States</option>
              <option value="dayFirst">The day comes first</option>
            </select>
          )}
        </Labelled>
      );
    case 'over':
      return (
        <Labelled label={`${q.said} has ${plural(q.possible, 'point')} possible. Take the scores above that?`}>
          {(id) => (
            <select
              id={id}
              className="field min-w-0"
              defaultValue=""
              onChange={(e) =>
                onDecide({
                  choices: { ...choices, over: { ...choices.over, [q.item]: e.target.value as OverChoice } },
                })
              }
            >
              <option value="" disabled>
                Choose …
              </option>
              <option value="take">Yes, as extra credit</option>
              <option value="leave">No, leave those scores out</option>
            </select>
          )}
        </Labelled>
      );
    case 'person': {
      const people =
        q.candidates.length > 0 ? here.course.people.filter((p) => q.candidates.includes(p.id)) : here.course.people;
      return (
        <Labelled label={`Who is “${q.said}”?`}>
          {(id) => (
            <select
              id={id}
              className="field min-w-0"
              defaultValue=""
              onChange={(e) =>
                onDecide({ choices: { ...choices, people: { ...choices.people, [q.said]: e.target.value } } })
              }
            >
              <option value="" disabled>
                Choose …
              </option>
              {people.map((p) => (
                <option key={p.id} value={p.id}>
                  {fullName(p)} ({p.email ?? p.id})
                </option>
              ))}
            </select>
          )}
        </Labelled>
      );
    }
    case 'item': {
      const choose = (value: string) => {
        const choice: ItemChoice = value === ':new' ? 'new' : value === ':nothing' ? 'nothing' : { item: value };
        onDecide({ choices: { ...choices, items: { ...choices.items, [q.said]: choice } } });
      };
      return (
        <Labelled label={`Which item is “${q.said}”?`}>
          {(id) => (
            <select id={id} className="field min-w-0" defaultValue="" onChange={(e) => choose(e.target.value)}>
              <option value="" disabled>
                Choose …
              </option>
              <option value=":new">Add it as a new item</option>
              <option value=":nothing">Leave it out</option>
              {here.course.items.map((i) => (
                <option key={i.id} value={i.id}>
                  {i.title}
                </option>
              ))}
            </select>
          )}
        </Labelled>
      );
    }
  }
}
