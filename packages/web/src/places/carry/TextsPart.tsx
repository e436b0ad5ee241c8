/** What texts say of the old term, marked in their sentences, with the chip that says it for any term. */
import { plural } from '@zest-bell/core/time';
import { textKey, type FoundText, type TextFind } from '@zest-bell/core/carry';
import { fieldTitleIn } from '../../parts/wording/fieldTitleIn.ts';
import { FieldText, type Titles } from '../../parts/wording/FieldText.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { Check } from '../../ui/fields.tsx';
import { toggled, rulesAlong, type CarryPart } from './choices.ts';

export function TextsPart({ here, preview, choices, set }: CarryPart) {
  // What comes along and what has no match go by the source’s titles.
  const items = [...here.course.items, ...preview.source.items];
  const used = new Set(rulesAlong(preview, choices).flatMap((r) => r.wordings));
  const wordings = preview.wordings.filter((w) => used.has(w.from));
  const clean = wordings.filter((w) => !w.isThere && w.found.length === 0).length;
  const there = wordings.filter((w) => w.isThere).length;
  const rest = [
    clean > 0 && `${plural(clean, 'wording')} ${clean === 1 ? 'does' : 'do'} not mention the old term.`,
    there > 0 && `${plural(there, 'wording')} ${there === 1 ? 'is' : 'are'} here already, word for word.`,
  ].filter(Boolean);
  return (
    <div className="mt-4">
      <h3 className="font-bold">Where texts mention the old term</h3>
      <p className="text-[14px] text-ink-2">
        The highlighted words belong to the old term. Where a field says the same for any term, it can replace them.
      </p>
      <ul>
        {wordings
          .filter((w) => w.found.length > 0)
          .map((w) => (
            <li key={w.from} className="border-b border-line py-2.5 last:border-b-0">
              <strong>{w.name}</strong>
              {w.found.map((text) => {
                const key = textKey(w.from, text.path);
                const hasField = text.finds.some((f) => f.field !== null);
                const asItIs = choices.asTheyAre.includes(key);
                return (
                  <div key={text.path} className="mt-1">
                    <p className="flex flex-wrap items-baseline gap-x-4 text-[13.5px] text-ink-2">
                      {pathWords(text)}
                      {hasField && (
                        <Check
                          label="Replace them with fields"
                          checked={!asItIs}
                          onChange={(on) => set({ asTheyAre: toggled(choices.asTheyAre, key, !on) })}
                        />
                      )}
                    </p>
                    <ul className="grid gap-1">
                      {text.finds.map((find) => (
                        <Find key={find.from} items={items} find={find} asItIs={asItIs} />
                      ))}
                    </ul>
                  </div>
                );
              })}
            </li>
          ))}
      </ul>
      {rest.length > 0 && <p className="mt-2 text-[14px] text-ink-2">{rest.join(' ')}</p>}
    </div>
  );
}

function Find({ items, find, asItIs }: { readonly items: Titles; readonly find: TextFind; readonly asItIs: boolean }) {
  const chip = find.field !== null && !asItIs ? fieldTitleIn(find.field, items) : null;
  return (
    <li className="rounded-lg bg-fog px-3 py-1.5 text-[14.5px] break-words">
      <FieldText items={items}>{find.before}</FieldText>
      {chip === null ? (
        <mark className="rounded bg-marker px-0.5 text-ink">{find.found}</mark>
      ) : (
        <>
          <del className="text-ink-2">{find.found}</del>{' '}
          <span className="rounded-md bg-zest-soft px-1.5 font-semibold">{chip}</span>
        </>
      )}
      <FieldText items={items}>{find.after}</FieldText>{' '}
      {find.field === null && <Chip tone="quiet">stays: change it in the wording</Chip>}
    </li>
  );
}

function pathWords({ path }: FoundText): string {
  const [, kind, place, part] = /^(?:(variants|copies|files)\[(\d+)\]\.)?(.+)$/.exec(path)!;
  const what = part === 'subject' ? 'Subject' : part === 'text' ? 'Text' : 'Name of the letter';
  if (kind === 'files') return 'Name of an attachment';
  if (kind === 'variants') return `${what} of its text ${Number(place) + 2}`;
  return kind === 'copies' ? `${what} for other readers` : what;
}
