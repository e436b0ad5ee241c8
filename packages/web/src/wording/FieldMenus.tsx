/** Merge fields to choose from, each with what it is for the student who is being read as; and conditions on them. */
import { useState } from 'react';
import { Command } from 'cmdk';
import { Popover } from 'radix-ui';
import { MERGE_FIELDS, type Condition } from '@zest-bell/core';
import type { Here } from '../app/here.ts';
import { wordFilter } from '../ui/wordFilter.ts';
import { usePreview } from './usePreview.ts';
import type { WordsHandle } from './WordsEditor.tsx';

const FALLBACKS: Readonly<Record<string, string>> = {
  'student.first_name': 'Hello',
  'item.title': 'your work',
  'item.due': 'soon',
  'student.missing_items': 'some of your work',
  'sender.office_hours': 'answer this message',
};

/** What every field is for one student: all of them rendered in one go. */
function useExamples(here: Here, when: Condition | null, reader: string): ReadonlyMap<string, string> {
  const text = MERGE_FIELDS.map((f) => `[[${f.name}]] {{ ${f.name} }}`).join('\n\n');
  const wording = { id: 'examples', name: 'Examples', purpose: 'support', subject: 'Examples', text } as const;
  const rendered = usePreview(here, wording, when, reader).data?.message.text ?? '';
  return new Map(
    rendered.split(/\n\n/).flatMap((line) => {
      const [, name, value] = /^\[\[([\w.]+)\]\]\s*([\s\S]*)$/.exec(line) ?? [];
      return name && value ? [[name, value.replace(/\s+/g, ' ')] as const] : [];
    }),
  );
}

export function FieldMenus(props: {
  readonly here: Here;
  readonly when: Condition | null;
  readonly reader: string;
  readonly editor: WordsHandle;
}) {
  const { editor } = props;
  const examples = useExamples(props.here, props.when, props.reader);
  return (
    <div className="flex flex-wrap gap-2">
      <FieldMenu
        label="+ personal value"
        examples={examples}
        onChoose={(name) => editor.insertField(name, FALLBACKS[name] ?? null)}
      />
      <FieldMenu label="+ only if there is …" examples={examples} onChoose={(name) => editor.insertCondition(name)} />
    </div>
  );
}

function FieldMenu(props: {
  readonly label: string;
  readonly examples: ReadonlyMap<string, string>;
  readonly onChoose: (name: string) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="rounded-lg border border-dashed border-pine px-2.5 py-1 text-[14px] font-semibold text-pine hover:border-solid">
        {props.label}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          collisionPadding={12}
          aria-label={props.label}
          onCloseAutoFocus={(e) => e.preventDefault()}
          className="pop z-[60] w-[400px] max-w-[calc(100vw-24px)] p-3"
        >
          <Command label="Merge fields" loop filter={wordFilter}>
            <Command.Input
              autoFocus
              placeholder="Search: name, missing, due …"
              aria-label="Search the fields"
              className="field mb-2 w-full"
            />
            <Command.List className="max-h-[300px] overflow-auto">
              <Command.Empty className="p-3 text-ink-2">Nothing of that name.</Command.Empty>
              {MERGE_FIELDS.map((f) => (
                <Command.Item
                  key={f.name}
                  value={f.name}
                  keywords={[f.title, f.name.replace(/[._]/g, ' ')]}
                  onSelect={() => {
                    setOpen(false);
                    props.onChoose(f.name);
                  }}
                  className="flex cursor-pointer items-baseline gap-3 rounded-lg px-2.5 py-1.5 data-[selected=true]:bg-fog"
                >
                  <span className="font-semibold">{f.title}</span>
                  <span className="ml-auto max-w-[55%] truncate text-[13px] text-ink-2">
                    {props.examples.get(f.name) ?? '—'}
                  </span>
                </Command.Item>
              ))}
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
