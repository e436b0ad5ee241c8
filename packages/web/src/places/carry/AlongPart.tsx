/** What comes along: rules one by one or all, items, limits and marks, the sender, saved views. */
import { plural } from '@zest-bell/core/time';
import type { CarriedSetting } from '@zest-bell/core/carry';
import { isSame } from '@zest-bell/core/course';
import { Button } from '../../ui/Button.tsx';
import { Check } from '../../ui/fields.tsx';
import { toggled, type CarryPart } from './choices.ts';
import { Section } from './Section.tsx';
import { ownSetting, settingTitle, settingWords } from '../../lib/settingWords.ts';

export function AlongPart(parts: CarryPart) {
  const { here, preview, choices, set } = parts;
  const { rules, source } = preview;
  const none = choices.rulesLeft.length === rules.length;
  return (
    <Section
      title="1. What comes along"
      note="Rules bring their wordings along. They arrive turned off, and drafts stay drafts. Exceptions for named students are left behind."
    >
      <div className="mt-2 grid gap-x-8 gap-y-4 min-[900px]:grid-cols-[minmax(0,1.6fr)_minmax(0,1fr)]">
        <div>
          <p className="flex items-baseline gap-3">
            <strong>{plural(rules.length, 'rule')}</strong>
            <Button look="quiet" onClick={() => set({ rulesLeft: none ? [] : rules.map((r) => r.from) })}>
              {none ? 'Choose all rules' : 'Choose no rules'}
            </Button>
          </p>
          <ul>
            {rules.map((r) => (
              <li key={r.from} className="border-b border-line py-1.5 last:border-b-0">
                <Check
                  label={
                    <span>
                      <strong>{r.name}</strong>
                      {r.status === 'draft' && <span className="text-ink-2"> (draft)</span>}
                    </span>
                  }
                  checked={!choices.rulesLeft.includes(r.from)}
                  onChange={(on) => set({ rulesLeft: toggled(choices.rulesLeft, r.from, !on) })}
                />
                <p className="pl-7 text-[14px] text-ink-2">{r.sentence}</p>
              </li>
            ))}
          </ul>
        </div>
        <div className="grid content-start gap-4">
          {preview.mayBringItems && source.items.length > 0 && (
            <div>
              <strong>Items</strong>
              <Check
                label={`Bring the ${plural(source.items.length, 'item')}, with moved dates`}
                checked={choices.withItems}
                onChange={(withItems) => set({ withItems })}
              />
              <p className="text-[14px] text-ink-2">
                {here.course.code} has no items yet. Extensions and excused students stay behind.
              </p>
            </div>
          )}
          <div>
            <strong>Limits and named scores</strong>
            <ul>
              {preview.settings
                .filter((s) => s.from !== null)
                .map((s) => (
                  <Setting key={s.what} {...parts} setting={s} />
                ))}
            </ul>
          </div>
          <div>
            <strong>Sender</strong>
            <Check
              label={`Use the sender and signature of ${source.code} (${source.sender})`}
              checked={choices.sender ?? source.isOwnSender}
              onChange={(sender) => set({ sender })}
            />
          </div>
          {preview.views.length > 0 && (
            <div>
              <strong>Saved views of Students</strong>
              <ul>
                {preview.views.map((v) => (
                  <li key={v.name}>
                    <Check
                      label={v.name}
                      disabled={v.isThere}
                      checked={!v.isThere && !choices.viewsLeft.includes(v.name)}
                      onChange={(on) => set({ viewsLeft: toggled(choices.viewsLeft, v.name, !on) })}
                    />
                    {(v.isThere || v.without.length > 0) && (
                      <p className="pl-7 text-[14px] text-ink-2">
                        {v.isThere
                          ? 'This course has a view with this name.'
                          : `Comes without ${v.without.join('; ')}: nothing here matches.`}
                      </p>
                    )}
                  </li>
                ))}
              </ul>
            </div>
          )}
        </div>
      </div>
    </Section>
  );
}

/** A limit or a mark: it comes along or stays behind, with what this course has beside it. */
function Setting({
  here,
  preview,
  choices,
  set,
  setting: { what, from, kept },
}: CarryPart & { readonly setting: CarriedSetting }) {
  const own = ownSetting(here.answer, what);
  return (
    <li className="border-b border-line py-1.5 last:border-b-0">
      <span className="font-semibold">{settingTitle(what)}</span>
      {isSame(own, from) ? (
        <p className="text-[14px] text-ink-2">{settingWords(what, from)} (the same here)</p>
      ) : (
        <Check
          label={
            <span className="text-[14px]">
              {`Use “${settingWords(what, from)}” from ${preview.source.code}`}
              <span className="block text-ink-2">{`${here.course.code} has ${own === null ? 'none' : `“${settingWords(what, own)}”`}.`}</span>
            </span>
          }
          checked={kept === 'source'}
          onChange={(on) => set({ settings: { ...choices.settings, [what]: on } })}
        />
      )}
    </li>
  );
}
