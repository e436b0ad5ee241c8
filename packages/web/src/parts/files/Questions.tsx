/** What a file leaves open: which order its dates are in, who is meant, which item it is, whether a high score is one. */
import { plural } from '@zest-bell/core/time';
import { fullName, type Item, type Person } from '@zest-bell/core/course';
import type { ItemChoice, OverChoice, Question } from '@zest-bell/core/imports';
import { Labelled } from '../../ui/fields.tsx';

type QuestionAbout<About extends Question['about']> = Extract<Question, { readonly about: About }>;

function Choose(props: {
  readonly label: string;
  readonly options: readonly (readonly [value: string, words: string])[];
  readonly onChoose: (value: string) => void;
}) {
  return (
    <Labelled label={props.label}>
      {(id) => (
        <select
          id={id}
          className="field min-h-8 min-w-0 bg-zest-soft py-0.5 text-[13px]"
          defaultValue=""
          onChange={(e) => props.onChoose(e.target.value)}
        >
          <option value="" disabled>
            Choose …
          </option>
          {props.options.map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </select>
      )}
    </Labelled>
  );
}

export const DayOrderQuestion = (props: {
  readonly question: QuestionAbout<'dayOrder'>;
  readonly onChoose: (order: 'monthFirst' | 'dayFirst') => void;
}) => (
  <Choose
    label={`Which is the day in “${props.question.example}”?`}
    options={[
      ['monthFirst', 'The month comes first, as in the United States'],
      ['dayFirst', 'The day comes first'],
    ]}
    onChoose={(value) => props.onChoose(value as 'monthFirst' | 'dayFirst')}
  />
);

export const OverQuestion = (props: {
  readonly question: QuestionAbout<'over'>;
  readonly onChoose: (choice: OverChoice) => void;
}) => (
  <Choose
    label={`${props.question.said} has ${plural(props.question.possible, 'point')} possible. Take the scores above that?`}
    options={[
      ['take', 'Yes, as extra credit'],
      ['leave', 'No, leave those scores out'],
    ]}
    onChoose={(value) => props.onChoose(value as OverChoice)}
  />
);

const NOBODY = ':nobody';

export function PersonQuestion(props: {
  readonly question: QuestionAbout<'person'>;
  readonly people: readonly Person[];
  /** The id of a person; empty for nobody. */
  readonly onChoose: (person: string) => void;
}) {
  const { said, candidates } = props.question;
  const people = candidates.length > 0 ? props.people.filter((p) => candidates.includes(p.id)) : props.people;
  return (
    <Choose
      label={`Who is “${said}”?`}
      options={[
        [NOBODY, 'Nobody: leave this row out'],
        ...people.map((p) => [p.id, `${fullName(p)} (${p.email ?? p.id})`] as const),
      ]}
      onChoose={(value) => props.onChoose(value === NOBODY ? '' : value)}
    />
  );
}

export const ItemQuestion = (props: {
  readonly question: QuestionAbout<'item'>;
  readonly items: readonly Item[];
  readonly onChoose: (choice: ItemChoice) => void;
}) => (
  <Choose
    label={`Which item is “${props.question.said}”?`}
    options={[
      [':new', 'Add it as a new item'],
      [':nothing', 'Leave it out'],
      ...props.items.map((i) => [`=${i.id}`, i.title] as const),
    ]}
    onChoose={(value) =>
      props.onChoose(value === ':new' ? 'new' : value === ':nothing' ? 'nothing' : { item: value.slice(1) })
    }
  />
);

/** Asks for points possible. Clearing the field withdraws the answer. */
export function OutOfQuestion(props: {
  readonly item: string;
  readonly points: number | undefined;
  readonly onAnswer: (points: number | null) => void;
}) {
  const { item, points, onAnswer } = props;
  const answer = (text: string) => {
    const typed = Number(text.trim().replace(',', '.'));
    const now = text.trim() === '' ? null : typed;
    if (now === (points ?? null) || (now !== null && !(now > 0))) return;
    onAnswer(now);
  };
  return (
    <label className="flex items-center gap-2">
      {item}: out of how many points?
      <input
        inputMode="decimal"
        className="field min-h-8 w-20 bg-zest-soft py-0.5 text-[13px]"
        defaultValue={points ?? ''}
        onBlur={(e) => answer(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== 'Enter') return;
          // In a form, Enter would send it.
          e.preventDefault();
          answer(e.currentTarget.value);
        }}
      />
    </label>
  );
}
