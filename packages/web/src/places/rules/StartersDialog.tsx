/** A new rule begins from a common need, filled in for this course, or from one condition. */
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { isActiveStudent } from '@zest-bell/core/course';
import type { Rule } from '@zest-bell/core/rules';
import { budgetWords } from '@zest-bell/core/rounds';
import { starterRuleFor, STARTER_FAMILIES, STARTERS, type Starter } from '@zest-bell/core/starters';
import type { StarterAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll, useWordings } from '../../lib/queries.ts';
import { useShelf } from '../../lib/useShelf.ts';
import { takenPath } from '../../parts/shelf/takenPath.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip, type Tone } from '../../ui/Chip.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { attempt } from '../../lib/attempt.ts';
import { createRule } from '../../lib/ruleActions.ts';
import { SayRule } from './SayRule.tsx';
import { BlankRuleDialog } from './BlankRuleDialog.tsx';
import { RuleSentence } from '../../parts/rule/RuleSentence.tsx';

const TONES: Readonly<Record<Starter['family'], Tone>> = {
  Away: 'zest',
  Content: 'zest',
  Work: 'tangerine',
  Grades: 'iris',
  Praise: 'brass',
  'For yourself': 'quiet',
};

export function StartersDialog({
  here,
  typed = '',
  onClose,
}: {
  readonly here: CourseHere;
  /** What is typed already. */
  readonly typed?: string | undefined;
  readonly onClose: () => void;
}) {
  const [search, setSearch] = useState(typed);
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const wordings = useWordings(here.id);
  const starters = useQuery({
    ...atMoment(['starters', here.id], here.now),
    queryFn: () => ask(contract.rules.starters, { course: here.id }),
  });
  const begin = async (rule: Rule, starter?: string) => {
    setBusy(true);
    const card = await attempt(() => createRule(here, rule, starter));
    setBusy(false);
    if (!card) return;
    onClose();
    await navigate(`/c/${here.id}/rules/${card.rule.id}`);
  };
  const take = async (item: number) => {
    setBusy(true);
    const taken = await attempt(() => ask(contract.shelf.take, { course: here.id, item }));
    setBusy(false);
    if (!taken) return;
    await refreshAll();
    onClose();
    await navigate(takenPath(here.id, taken));
  };
  const [blank, setBlank] = useState(false);
  const first = wordings.data?.[0];
  if (blank)
    return (
      <BlankRuleDialog
        here={here}
        busy={busy}
        onBegin={(rule) => void begin(rule)}
        onBack={() => setBlank(false)}
        onClose={onClose}
      />
    );
  const found = startersFor(search);
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title="A new rule"
      note="Type it as a sentence, or choose the closest one below. It opens as a draft, and you can change every part of it."
      foot={
        <>
          <Button disabled={!first || busy} onClick={() => setBlank(true)}>
            Start with a blank rule
          </Button>
          {busy && (
            <p role="status" className="text-[14px] text-ink-2">
              Opening the rule …
            </p>
          )}
          <Button className="ml-auto" onClick={onClose}>
            Not now
          </Button>
        </>
      }
    >
      <div className="px-6 pt-4">
        <SayRule
          here={here}
          text={search}
          busy={busy}
          onText={setSearch}
          onBegin={(rule, starter) => void begin(rule, starter)}
        />
        <p className="mt-3 text-[14px] text-ink-2">
          {here.course.settings.budget === null
            ? 'There is no limit yet on how many messages one student gets from all rules together.'
            : `One student gets at most ${budgetWords(here.course.settings.budget)} from all rules together, with a few exceptions.`}{' '}
          <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course#budget`}>
            {here.course.settings.budget === null ? 'Set a message budget' : 'Change the message budget'}
          </Link>
          , for example at most one message in two weeks.
        </p>
      </div>
      {starters.isPending ? (
        <Loading what="the starters" />
      ) : starters.isError ? (
        <Failed error={starters.error} retry={() => void starters.refetch()} />
      ) : (
        <div className="grid gap-5 px-6 py-4">
          <FromShelf here={here} typed={search} busy={busy} onTake={(item) => void take(item)} />
          {STARTER_FAMILIES.filter((f) => found.some((s) => s.family === f)).map((family) => (
            <section key={family}>
              <h3 className="mb-2 text-[15px] font-bold">{family}</h3>
              <ul className="grid gap-2 min-[820px]:grid-cols-2">
                {found
                  .filter((s) => s.family === family)
                  .map((s) => (
                    <StarterCard
                      key={s.id}
                      here={here}
                      starter={s}
                      answer={starters.data.find((a) => a.id === s.id)}
                      disabled={busy}
                      onChoose={(rule) => void begin(rule, s.id)}
                    />
                  ))}
              </ul>
            </section>
          ))}
        </div>
      )}
    </Dialog>
  );
}

/** What the institution offers, before what Zest Bell brings along. */
function FromShelf(props: {
  readonly here: CourseHere;
  readonly typed: string;
  readonly busy: boolean;
  readonly onTake: (item: number) => void;
}) {
  const { here } = props;
  const shelf = useShelf(here).data;
  const wanted = props.typed.trim().toLowerCase();
  const offered = (shelf?.items ?? []).filter((i) => i.kind === 'rule' && !i.isRetired);
  const fitting = offered.filter((i) => `${i.name} ${i.note}`.toLowerCase().includes(wanted));
  const shown = fitting.length > 0 ? fitting : offered;
  if (!shelf || shown.length === 0) return null;
  const klass = here.course.people.filter(isActiveStudent).length;
  return (
    <section aria-label="On the shelf">
      <h3 className="mb-2 text-[15px] font-bold">{shelf.college}</h3>
      <ul className="grid gap-2 min-[820px]:grid-cols-2">
        {shown.map((i) => (
          <li key={i.id}>
            <button
              type="button"
              disabled={props.busy || i.needs !== null}
              onClick={() => props.onTake(i.id)}
              className="flex h-full w-full flex-col justify-start rounded-2xl border border-line p-4 text-left enabled:hover:border-ink disabled:border-dashed disabled:text-ink-3"
            >
              <span className="flex items-start gap-3">
                <strong className="flex-1 font-head text-[16px] leading-tight">{i.name}</strong>
                {i.needs === null && (
                  <Chip tone="zest">
                    {i.matching} of {klass} now
                  </Chip>
                )}
              </span>
              <span className="mt-1 block text-[14px] text-ink-2">{i.note}</span>
              <span className="mt-1.5 block text-[14px] leading-[1.55]">{i.sentence ?? i.needs}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Those that have every typed word; else those that have some of the longer words; else all. */
function startersFor(typed: string): readonly Starter[] {
  const wanted = typed
    .trim()
    .toLowerCase()
    .split(/[\s,]+/);
  const wordsOf = (s: Starter) => `${s.title} ${s.why} ${s.family}`.toLowerCase();
  const all = STARTERS.filter((s) => wanted.every((w) => wordsOf(s).includes(w)));
  if (all.length > 0) return all;
  const some = STARTERS.filter((s) => wanted.some((w) => w.length > 3 && wordsOf(s).includes(w)));
  return some.length > 0 ? some : STARTERS;
}

function StarterCard(props: {
  readonly here: CourseHere;
  readonly starter: Starter;
  readonly answer: StarterAnswer | undefined;
  readonly disabled: boolean;
  readonly onChoose: (rule: Rule) => void;
}) {
  const { here, starter, answer } = props;
  const built = starterRuleFor(starter, here.course, here.now, here.answer.presence);
  const klass = here.course.people.filter(isActiveStudent).length;
  if (!built.ok) {
    return (
      <li className="rounded-2xl border border-dashed border-line p-4 text-ink-3">
        <strong>{starter.title}</strong>
        <p className="text-[14px]">
          This course has no {built.needs}.{' '}
          <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course/data`}>
            Bring data in
          </Link>
        </p>
      </li>
    );
  }
  return (
    <li>
      <button
        type="button"
        disabled={props.disabled}
        onClick={() => props.onChoose(built.rule)}
        className="flex h-full w-full flex-col justify-start rounded-2xl border border-line p-4 text-left hover:border-ink"
      >
        <span className="flex items-start gap-3">
          <strong className="flex-1 font-head text-[16px] leading-tight">{starter.title}</strong>
          <Chip tone={TONES[starter.family]}>
            {answer?.matching ?? 0} of {klass} now
          </Chip>
        </span>
        <span className="mt-1 block text-[14px] text-ink-2">{starter.why}</span>
        {answer?.unheard.map((words) => (
          <span key={words} className="mt-1 block text-[14px] text-tangerine-text">
            ▲ {words}
          </span>
        ))}
        <span className="mt-1.5 block text-[14px] leading-[1.55]">
          <RuleSentence rule={built.rule} course={here.course} marks="all" />
        </span>
      </button>
    </li>
  );
}
