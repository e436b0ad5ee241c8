/** One’s other courses: use it there too, as a copy or by joining one that is alike. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { SetCandidate, SetKind, SetOutcome } from '@zest-bell/core/exchange';
import { plural } from '@zest-bell/core/time';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { LEFT_ALONE, setProblemWords } from '../../lib/sets.ts';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { Check } from '../../ui/fields.tsx';

interface ElsewhereProps {
  readonly here: CourseHere;
  readonly kind: SetKind;
  readonly of: string;
  readonly name: string;
}

/** What is chosen of a course: a copy, or the key of one there that is joined. */
type CourseChoices = Readonly<Record<number, string | null>>;

export function Elsewhere({ here, kind, of, name }: ElsewhereProps) {
  const [chosen, setChosen] = useState<CourseChoices>({});
  const [busy, setBusy] = useState(false);
  const [troubles, setTroubles] = useState<readonly SetOutcome[]>([]);
  const all = useQuery({
    queryKey: ['setCandidates', here.id, kind, of],
    queryFn: () => ask(contract.sets.candidates, { course: here.id, kind, key: of }),
  });
  if (all.isPending) return <Loading what="your other courses" />;
  if (all.isError) return <Failed error={all.error} retry={() => void all.refetch()} />;
  const shown = all.data.filter((c) => c.leftAlone !== 'hasIt');
  const picked = shown.filter((c) => c.leftAlone === null && Object.hasOwn(chosen, c.course.id));
  const use = async () => {
    setBusy(true);
    const courses = picked.map((c) => ({ course: c.course.id, join: chosen[c.course.id] ?? null }));
    const outcomes = await attempt(() =>
      ask(contract.sets.use, { course: here.id, kind, key: of }, { body: { courses } }),
    );
    setBusy(false);
    if (!outcomes) return;
    const went = outcomes.filter((o) => o.problem === null);
    setTroubles(outcomes.filter((o) => o.problem !== null));
    setChosen({});
    if (went.length > 0)
      toast(`“${name}” is in ${went.map((o) => o.code).join(', ')} too.`, {
        description: kind === 'rule' ? 'A new copy is off until you turn it on there.' : undefined,
      });
    await refreshAll();
  };
  return (
    <section aria-label="Use it in other courses too" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[19px] font-bold">Use it in other courses too</h2>
      <p className="text-[14px] text-ink-2">
        {shown.length === 0
          ? 'You have no other course without it.'
          : kind === 'rule'
            ? 'Each course gets a copy that is off, with its wordings. It is on the checklist in Today there.'
            : 'Each course gets a copy of its own.'}
      </p>
      <ul>
        {shown.map((c) => (
          <li key={c.course.id} className="border-b border-line py-2.5 last:border-b-0">
            <Candidate
              candidate={c}
              chosen={chosen}
              onChoose={setChosen}
              onSame={(from, to) =>
                void attempt(async () => {
                  await ask(
                    contract.sets.match,
                    { course: here.id },
                    { body: { other: c.course.id, told: { [from]: to } } },
                  );
                  await refreshAll();
                })
              }
            />
          </li>
        ))}
      </ul>
      {troubles.map((t) => (
        <p key={t.course} role="alert" className="mt-2 rounded-lg bg-tangerine-soft px-3 py-2 text-[14.5px]">
          <span aria-hidden>▲ </span>
          <strong>{t.code}</strong>: {t.problem!.words}
        </p>
      ))}
      {shown.some((c) => c.leftAlone === null) && (
        <Button look="main" className="mt-2" busy={busy} disabled={picked.length === 0} onClick={() => use()}>
          Use in {plural(picked.length, 'course')}
        </Button>
      )}
    </section>
  );
}

function Candidate(props: {
  readonly candidate: SetCandidate;
  readonly chosen: CourseChoices;
  readonly onChoose: (next: CourseChoices) => void;
  readonly onSame: (from: string, to: string | null) => void;
}) {
  const { candidate: c, chosen, onChoose } = props;
  const { id, code, title } = c.course;
  const isChosen = Object.hasOwn(chosen, id);
  const label = (
    <>
      <strong>{code}</strong> {title}
    </>
  );
  if (c.leftAlone !== null) {
    return (
      <p>
        {label} <span className="text-[14px] text-ink-2">{LEFT_ALONE[c.leftAlone]}</span>
      </p>
    );
  }
  return (
    <>
      <Check
        label={label}
        checked={isChosen}
        onChange={(yes) => {
          const { [id]: _gone, ...rest } = chosen;
          onChoose(yes ? { ...rest, [id]: c.alike[0]?.key ?? null } : rest);
        }}
      />
      <div className="ml-7 text-[14px] text-ink-2">
        {c.finds && (
          <p>
            A copy would find {c.finds.now} of {plural(c.finds.students, 'student')} there now.
          </p>
        )}
        {c.problems.map((p) => (
          <p key={p.path} className="font-semibold text-tangerine-text">
            <span aria-hidden>▲ </span>
            {setProblemWords(p)} The copy cannot be turned on before you choose one there.
          </p>
        ))}
        {c.proposed.map((p) => (
          <p key={p.from} className="flex flex-wrap items-center gap-x-3">
            Is “{p.fromTitle}” the same as “{p.toTitle}” there?
            <Button look="quiet" className="min-h-0 text-[14px]" onClick={() => props.onSame(p.from, p.to)}>
              They are the same
            </Button>
            <Button look="quiet" className="min-h-0 text-[14px]" onClick={() => props.onSame(p.from, null)}>
              They are not
            </Button>
          </p>
        ))}
        {isChosen && c.alike.length > 0 && (
          <label className="mt-1 flex flex-wrap items-center gap-2">
            There is one like it:
            <select
              className="field min-h-8 py-0!"
              aria-label={`How in ${code}`}
              value={chosen[id] ?? ''}
              onChange={(e) => onChoose({ ...chosen, [id]: e.target.value || null })}
            >
              {c.alike.map((a) => (
                <option key={a.key} value={a.key}>
                  Join with “{a.name}”, which stays as it is
                </option>
              ))}
              <option value="">Add a copy beside it</option>
            </select>
          </label>
        )}
      </div>
    </>
  );
}
