/** What the copy here says and others do not: course by course, confirmed one by one or all at once, or left there as drafts. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { SetChange, SetMember } from '@zest-bell/core/exchange';
import { plural } from '@zest-bell/core/time';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { refreshAll, useCourse } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Check } from '../../ui/fields.tsx';
import { ChangeLines, openIn, type ChangeLinesProps } from './ChangeLines.tsx';
import type { SetPart } from './setPart.ts';
import { Yes } from './Yes.tsx';

type ChangedMember = SetMember & { readonly change: SetChange };

export function ChangesPart({ here, kind, of, answer, choices }: SetPart) {
  const [busy, setBusy] = useState(false);
  const changed = answer.members.filter((m): m is ChangedMember => !m.isHere && m.change !== null);
  if (changed.length === 0) {
    return (
      <p className="rounded-[16px] border border-line bg-sheet px-5 py-4 text-ink-2">
        No change from {here.course.code} is open in another course. When you change it here, Zest Bell asks whether the
        other courses should have the change too.
      </p>
    );
  }
  const chosen = changed.filter((m) => choices.of(m.course.id).chosen);
  const open = chosen.filter((m) => openIn(m.change, choices.of(m.course.id).picks) > 0);
  const take = async (members: readonly ChangedMember[], confirm: boolean) => {
    setBusy(true);
    const courses = members.map((m) => {
      const { picks, confirmed, outside } = choices.of(m.course.id);
      return { course: m.course.id, version: m.version, picks, confirm, confirmed, outside };
    });
    const outcomes = await attempt(() =>
      ask(contract.sets.take, { course: here.id, kind, key: of }, { body: { courses } }),
    );
    setBusy(false);
    if (!outcomes) return;
    for (const o of outcomes) choices.set(o.course, { problem: o.problem });
    const went = outcomes.filter((o) => o.problem === null);
    const where = went.map((o) => o.code).join(', ');
    if (went.length > 0) toast(confirm ? `Changed in ${where}.` : `Waiting in ${where} until it is confirmed there.`);
    await refreshAll();
  };
  return (
    <section
      aria-label="What would change in other courses"
      className="rounded-[16px] border border-line bg-sheet px-5 py-4"
    >
      <h2 className="text-[19px] font-bold">What would change in {plural(changed.length, 'other course')}</h2>
      <p className="text-[14px] text-ink-2">
        The rules there keep running unchanged until you confirm. Nothing that was changed there is overwritten unless
        you choose so.
      </p>
      <ul>
        {changed.map((member) => {
          const { id, code, title } = member.course;
          const choice = choices.of(id);
          return (
            <li key={id} className="border-b border-line py-4 last:border-b-0">
              <div className="mb-2">
                <Check
                  label={
                    <>
                      <strong>{code}</strong> {title}
                    </>
                  }
                  checked={choice.chosen}
                  onChange={(yes) => choices.set(id, { chosen: yes })}
                />
              </div>
              <WithTitles
                here={here.id}
                member={member}
                change={member.change}
                picks={choice.picks}
                onPick={(picks) => choices.set(id, { picks })}
              />
              {choice.problem && (
                <Yes problem={choice.problem} choice={choice} onChange={(next) => choices.set(id, next)} />
              )}
            </li>
          );
        })}
      </ul>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button
          look="main"
          busy={busy}
          disabled={chosen.length === 0 || open.length > 0}
          onClick={() => take(chosen, true)}
        >
          Confirm in {plural(chosen.length, 'course')}
        </Button>
        <Button busy={busy} disabled={chosen.length === 0} onClick={() => take(chosen, false)}>
          Leave as drafts there
        </Button>
        <span className="text-[14px] text-ink-2" role="status">
          {open.length > 0
            ? `${open.map((m) => m.course.code).join(', ')}: choose one side where both changed.`
            : 'A draft waits there and does not run until you or another instructor confirms it.'}
        </span>
      </div>
    </section>
  );
}

/** Titles of both courses’ items, and the yes to items that look alike. */
function WithTitles({ here, ...props }: { readonly here: number } & Omit<ChangeLinesProps, 'items'>) {
  const own = useCourse(here).view?.course.items ?? [];
  const there = useCourse(props.member.course.id).view?.course.items ?? [];
  const onSame: NonNullable<ChangeLinesProps['onSame']> = (proposed, same) =>
    void attempt(async () => {
      const told = { [proposed.from]: same ? proposed.to : null };
      await ask(contract.sets.match, { course: here }, { body: { other: props.member.course.id, told } });
      await refreshAll();
    });
  return <ChangeLines {...props} items={[...there, ...own]} onSame={onSame} />;
}
