/** What is said: the step's wording, as it would begin for the first who would read it. */
import { useState } from 'react';
import { Popover } from 'radix-ui';
import { recipientWords, type Condition, type Step, type WordingAnswer } from '@zest-bell/core';
import { useWordings } from '../../app/queries.ts';
import type { Here } from '../../app/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { usePreview } from '../../wording/usePreview.ts';
import { WordingDialog } from '../../wording/WordingDialog.tsx';

export function StepLine({
  here,
  step,
  when,
  student,
  onChange,
}: {
  readonly here: Here;
  readonly step: Step;
  /** What the rule is about, for its merge fields. */
  readonly when: Condition;
  /** Whom a preview is for. */
  readonly student: string | null;
  readonly onChange: (step: Step) => void;
}) {
  const wordings = useWordings(here.id);
  const [editing, setEditing] = useState<WordingAnswer | null>(null);
  const chosen = wordings.data?.find((w) => w.id === step.wording);
  const opening = usePreview(here, chosen, when, student).data?.message.text.replace(/\s+/g, ' ');
  return (
    <div className="grid grid-cols-[72px_1fr] border-t border-line py-3.5 text-[15px]">
      <span className="pt-0.5 font-num text-[14px] font-bold text-pine">at once</span>
      <div className="min-w-0">
        <p>
          Send{' '}
          <Popover.Root>
            <Popover.Trigger className="markable" aria-label={`Wording: ${chosen?.name ?? step.wording}`}>
              <span className="marked">{chosen?.name ?? step.wording}</span>
            </Popover.Trigger>
            <Popover.Portal>
              <Popover.Content
                align="start"
                sideOffset={8}
                collisionPadding={12}
                aria-label="Wording"
                className="pop z-40 w-[340px] p-2"
              >
                <ul>
                  {(wordings.data ?? []).map((w) => (
                    <li key={w.id}>
                      <Popover.Close
                        aria-pressed={w.id === step.wording}
                        onClick={() => onChange({ ...step, wording: w.id })}
                        className="w-full rounded-lg px-3 py-2 text-left hover:bg-fog aria-pressed:bg-zest-soft"
                      >
                        <strong>{w.name}</strong>
                        <span className="block truncate text-[13px] text-ink-2">{w.subject}</span>
                      </Popover.Close>
                    </li>
                  ))}
                </ul>
                {chosen && (
                  <Popover.Close asChild>
                    <Button className="mt-2 w-full" onClick={() => setEditing(chosen)}>
                      Change its words …
                    </Button>
                  </Popover.Close>
                )}
              </Popover.Content>
            </Popover.Portal>
          </Popover.Root>{' '}
          to {recipientWords(step.to)}{' '}
          <Chip tone={step.deliver === 'send' ? 'zest' : 'iris'}>
            {step.deliver === 'send' ? 'sends itself' : 'waits for you'}
          </Chip>
        </p>
        {opening && <p className="mt-0.5 truncate text-[14px] text-ink-2">“{opening}”</p>}
      </div>
      {editing && (
        <WordingDialog here={here} wording={editing} when={when} student={student} onClose={() => setEditing(null)} />
      )}
    </div>
  );
}
