/** One rule or wording in several courses: what it is and does in each, what a change would do there, and further courses for it. */
import { Link, useParams } from 'react-router';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { SetKind } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { plural } from '@zest-bell/core/time';
import { ApiProblem, ask } from '../../lib/api.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { refreshAll, useRules, useWordings } from '../../lib/queries.ts';
import { setPath } from '../../lib/sets.ts';
import { attempt } from '../../lib/attempt.ts';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { ChangesPart } from './ChangesPart.tsx';
import { CopiesTable } from './CopiesTable.tsx';
import { Elsewhere } from './Elsewhere.tsx';
import type { SetPart } from './setPart.ts';
import { useChoices } from './useChoices.ts';
import { WaitingPart } from './WaitingPart.tsx';
import { Page } from '../../ui/Page.tsx';

export function SetPage() {
  const here = useHere();
  const { kind: place, key = '' } = useParams();
  const kind: SetKind = place === 'wording' ? 'wording' : 'rule';
  const name = useName(here, kind, key);
  const choices = useChoices();
  const set = useQuery({
    queryKey: ['set', here.id, kind, key, choices.picks],
    queryFn: () =>
      ask(contract.sets.look, { course: here.id, kind, key }, { body: { picks: choices.picks } }).catch(
        (error: unknown) => {
          // In no other course yet.
          if (error instanceof ApiProblem && error.code === 'notFound') return null;
          throw error;
        },
      ),
    // Whom it would reach is counted anew for each choice; the rest stays on screen in the meantime.
    placeholderData: keepPreviousData,
  });
  if (set.isPending || name === undefined) return <Loading what="the courses" />;
  if (set.isError) return <Failed error={set.error} retry={() => void set.refetch()} />;
  const answer = set.data && set.data.members.length + set.data.others > 1 ? set.data : null;
  const back = kind === 'rule' ? `/c/${here.id}/rules/${key}` : `/c/${here.id}/wording?wording=${key}`;
  return (
    <Page
      title={`“${name}” ${answer ? `in ${plural(answer.members.length + answer.others, 'course')}` : 'in other courses'}`}
      lead={
        <Link to={back} className="font-semibold text-pine underline-offset-4 hover:underline">
          ← {name}
        </Link>
      }
    >
      <div className="grid grid-cols-[minmax(0,1fr)] gap-4">
        <p className="text-ink-2">
          Each course keeps its own copy, which decides and sends by itself. A change goes to other courses only when
          you confirm it there.
        </p>
        {answer && <InCourses here={here} kind={kind} of={key} answer={answer} choices={choices} />}
        <Elsewhere here={here} kind={kind} of={key} name={name} />
      </div>
    </Page>
  );
}

/** The name of the rule or the wording here. */
function useName(here: CourseHere, kind: SetKind, key: string): string | undefined {
  const rules = useRules(here.id);
  const wordings = useWordings(here.id);
  if (kind === 'rule') return rules.data && (rules.data.find((c) => c.rule.id === key)?.rule.name ?? key);
  return wordings.data && (wordings.data.find((w) => w.id === key)?.name ?? key);
}

function InCourses(part: SetPart) {
  const { here, kind, of, answer } = part;
  const own = answer.members.find((m) => m.isHere);
  const leave = () =>
    attempt(async () => {
      await ask(contract.sets.leave, { course: here.id, kind, key: of });
      await refreshAll();
    });
  return (
    <>
      <section aria-label="What it is in each course" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
        <CopiesTable {...part} />
        <p className="mt-2 flex flex-wrap items-baseline gap-x-4 text-[14px] text-ink-2">
          {answer.others > 0 && (
            <span>
              {plural(answer.others, 'more course')} {answer.others === 1 ? 'has' : 'have'} it too. You do not have
              access there.
            </span>
          )}
          <Button look="quiet" className="ml-auto min-h-0 text-[14px]" onClick={() => leave()}>
            Keep the copy in {here.course.code} apart
          </Button>
        </p>
      </section>
      {own?.change && <WaitingPart key={own.version} {...part} own={own} change={own.change} />}
      {!own?.waits && <ChangesPart key={setPath(here.id, kind, of)} {...part} />}
    </>
  );
}
