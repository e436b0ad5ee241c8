/** What the verbs of a platform's statements mean in this course: the published ones, and the course's own before them. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { VERB_MEANINGS, XAPI_VERBS, type VerbMeaning } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { MEANING_WORDS } from './kindWords.ts';

export const meaningsQuery = (course: number) => ({
  queryKey: ['data', course, 'meanings'],
  queryFn: () => ask(contract.intake.meanings, { course }),
});

export function Verbs({ here }: { readonly here: CourseHere }) {
  const meanings = useQuery(meaningsQuery(here.id));
  const [added, setAdded] = useState('');
  if (!meanings.data) return null;
  const own = meanings.data.verbs ?? {};
  const save = async (verbs: Readonly<Record<string, VerbMeaning>>) => {
    const done = await attempt(() =>
      ask(contract.intake.setMeanings, { course: here.id }, { body: { ...meanings.data, verbs } }),
    );
    await refreshAll();
    if (done !== undefined) toast('Saved. New statements are read this way.');
  };
  const all = [...new Set([...Object.keys(own), ...Object.keys(XAPI_VERBS)])];
  return (
    <details className="text-[14px]">
      <summary className="font-semibold">What verbs mean here</summary>
      <ul className="mt-1 grid max-h-72 gap-1 overflow-auto">
        {all.map((verb) => (
          <li key={verb} className="grid gap-0.5 border-b border-line py-1">
            <span className="truncate font-num text-[12.5px]" title={verb}>
              {verb.replace(/^https?:\/\//, '')}
            </span>
            <select
              aria-label={`Meaning of ${verb}`}
              className="field min-h-8 py-0.5 text-[13.5px]"
              value={own[verb] ?? XAPI_VERBS[verb]}
              onChange={(e) => void save({ ...own, [verb]: e.target.value as VerbMeaning })}
            >
              {VERB_MEANINGS.map((m) => (
                <option key={m} value={m}>
                  {MEANING_WORDS[m]}
                </option>
              ))}
            </select>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (/^https?:\/\/\S+$/.test(added)) void save({ ...own, [added]: 'visit' }).then(() => setAdded(''));
        }}
      >
        <input
          aria-label="Address of another verb"
          className="field min-w-0 flex-1"
          placeholder="https://"
          value={added}
          onChange={(e) => setAdded(e.target.value)}
        />
        <Button type="submit">Add verb</Button>
      </form>
    </details>
  );
}
