/** Statements that fit nobody or nothing yet, by what they name: one choice takes all of its kind, now and later. */
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { plural } from '@zest-bell/core/time';
import { fullName } from '@zest-bell/core/course';
import { VERB_MEANINGS, type CourseMeanings, type VerbMeaning } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../../lib/api.ts';
import { attempt } from '../../../lib/attempt.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { refreshAll } from '../../../lib/queries.ts';
import { MEANING_WORDS } from '../../../parts/files/kindWords.ts';
import { meaningsQuery } from '../../../parts/files/Verbs.tsx';

export function WaitingStatements({ here }: { readonly here: CourseHere }) {
  const waiting = useQuery({
    queryKey: ['data', here.id, 'waiting'],
    queryFn: () => ask(contract.intake.waiting, { course: here.id }),
  });
  const meanings = useQuery(meaningsQuery(here.id));
  if (!waiting.data || !meanings.data || waiting.data.length === 0) return null;
  const known = meanings.data;
  const choose = async (part: CourseMeanings) => {
    const next = {
      verbs: { ...known.verbs, ...part.verbs },
      people: { ...known.people, ...part.people },
      items: { ...known.items, ...part.items },
    };
    const taken = await attempt(() => ask(contract.intake.setMeanings, { course: here.id }, { body: next }));
    await refreshAll();
    if (taken) toast(`${plural(taken.taken, 'statement')} taken.`);
  };
  return (
    <section aria-label="Statements that wait" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Statements that fit nothing yet</h2>
      <p className="text-[14px] text-ink-2">
        Your platform sent these. Choose once what each means, and Zest Bell takes all of them, now and later.
      </p>
      <ul className="mt-1">
        {waiting.data.map((group) => (
          <li
            key={`${group.about} ${group.said}`}
            className="flex flex-wrap items-center gap-3 border-b border-line py-2 last:border-b-0"
          >
            <span className="min-w-0 flex-1 basis-72">
              <strong className="block truncate" title={group.said}>
                {group.said}
              </strong>
              <span className="text-[13.5px] text-ink-2">
                {plural(group.count, 'statement')},{' '}
                {{ verb: 'a verb', person: 'a person', item: 'an item', other: group.why }[group.about]}
              </span>
            </span>
            {group.about !== 'other' && (
              <select
                aria-label={`What ${group.said} means`}
                className="field max-w-64"
                value=""
                onChange={(e) => {
                  const value = e.target.value;
                  if (group.about === 'verb') void choose({ verbs: { [group.said]: value as VerbMeaning } });
                  else if (group.about === 'person') void choose({ people: { [group.said]: value } });
                  else void choose({ items: { [group.said]: value === ':nothing' ? 'nothing' : { item: value } } });
                }}
              >
                <option value="" disabled>
                  Choose …
                </option>
                {group.about === 'verb' &&
                  VERB_MEANINGS.map((m) => (
                    <option key={m} value={m}>
                      It means: {MEANING_WORDS[m]}
                    </option>
                  ))}
                {group.about === 'person' &&
                  here.course.people.map((p) => (
                    <option key={p.id} value={p.id}>
                      {fullName(p)}
                    </option>
                  ))}
                {group.about === 'item' && (
                  <>
                    <option value=":nothing">Leave it out</option>
                    {here.course.items.map((i) => (
                      <option key={i.id} value={i.id}>
                        {i.title}
                      </option>
                    ))}
                  </>
                )}
              </select>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
