/** What is left to do before a course works on its own, each with where to do it. */
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { plural } from '@zest-bell/core/time';
import type { SetupAnswer, SetupStep } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';

export const setupQuery = (course: number) => ({
  queryKey: ['setup', course],
  queryFn: () => ask(contract.course.setup, { course }),
});

interface StepWords {
  readonly todo: string;
  readonly done: (count: number) => string;
  readonly why: string;
  readonly act: string;
  readonly to: string;
}

const STEPS: Readonly<Record<SetupStep, StepWords>> = {
  people: {
    todo: 'Bring in your students',
    done: (n) => `${plural(n, 'student')} on the roster`,
    why: 'Rules look at students, and messages need their addresses.',
    act: 'Bring a roster in',
    to: 'course/data',
  },
  items: {
    todo: 'Bring in your assignments, quizzes and pages',
    done: (n) => plural(n, 'item'),
    why: 'Rules about missing work, scores and due dates need them. Rules about visits do not.',
    act: 'Bring items in',
    to: 'course/data',
  },
  activity: {
    todo: 'Bring in activity',
    done: (n) => `${plural(n, 'event')} so far`,
    why: 'Visits, submissions and posts, from a file or from your platform. Until then everybody looks absent.',
    act: 'Bring activity in',
    to: 'course/data',
  },
  sender: {
    todo: 'Check who the messages come from',
    done: () => 'You checked the sender and where replies go',
    why: 'Replies must reach somebody who reads them. Send yourself a test message.',
    act: 'Check the sender',
    to: 'course#sender',
  },
  rule: {
    todo: 'Turn on a first rule',
    done: (n) => `${plural(n, 'rule')} on`,
    why: 'Choose a starter that fits your course, rehearse it without sending, then turn it on.',
    act: 'Choose a starter',
    to: 'rules?new',
  },
};

/** Nothing once everything is done. */
export function SetUpCard({ here, always = false }: { readonly here: CourseHere; readonly always?: boolean }) {
  const setup = useQuery(setupQuery(here.id));
  if (!setup.data) return null;
  const left = setup.data.steps.filter((s) => !s.done);
  if (left.length === 0 && !always) return null;
  return (
    <section aria-label="Set up this course" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">
        {left.length === 0 ? 'This course is set up' : `Set up this course: ${plural(left.length, 'step')} left`}
      </h2>
      <SetUpSteps course={here.id} steps={setup.data.steps.filter((s) => always || !s.done)} />
    </section>
  );
}

/** Steps of a course, each with the way to where it is done. */
export function SetUpSteps(props: { readonly course: number; readonly steps: SetupAnswer['steps'] }) {
  return (
    <ol>
      {props.steps.map(({ step, done, count }) => {
        const words = STEPS[step];
        return (
          <li
            key={step}
            className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-line py-2.5 last:border-b-0"
          >
            <span aria-hidden className={`font-num ${done ? 'text-pine' : 'text-ink-3'}`}>
              {done ? '✓' : '○'}
            </span>
            <span className="min-w-0 flex-1 basis-72">
              <strong>{done ? words.done(count) : words.todo}</strong>
              {!done && <span className="block text-[14px] text-ink-2">{words.why}</span>}
            </span>
            <Link
              className="font-semibold text-pine underline-offset-4 hover:underline"
              to={`/c/${props.course}/${words.to}`}
            >
              {done ? 'Look at it' : words.act}
            </Link>
          </li>
        );
      })}
    </ol>
  );
}
