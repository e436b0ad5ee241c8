/** What may be put into the words: personal values with what they are for the student being read as, lists, links, pictures. */
import { useRef, useState, type ReactNode } from 'react';
import { Command } from 'cmdk';
import { Popover } from 'radix-ui';
import { Pop } from '../../ui/Pop.tsx';
import { toast } from 'sonner';
import { instantWords } from '@zest-bell/core/time';
import type { Item } from '@zest-bell/core/course';
import type { Condition } from '@zest-bell/core/conditions';
import {
  columnField,
  FALLBACKS,
  isTypedAddress,
  itemDueField,
  itemLinkField,
  MERGE_FIELDS,
  type MergeField,
} from '@zest-bell/core/wording';
import { errorWords } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { wordFilter } from '../../ui/wordFilter.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { pictureUrl, uploadFile } from '../messages/files.ts';
import { useExamples } from '../messages/usePreview.ts';
import type { WordsHandle } from './WordsEditor.tsx';

const ofKind = (kind: MergeField['kind']) => MERGE_FIELDS.filter((f) => f.kind === kind);
const LISTS = ofKind('list');
const LINKS = ofKind('link');
const VALUES = ofKind('value');

export function InsertMenus(props: {
  readonly here: CourseHere;
  readonly when: Condition | null;
  readonly student: string;
  readonly editor: WordsHandle;
  /** Columns beside those of the course, as of a sheet. */
  readonly columns?: readonly string[] | undefined;
}) {
  const { here, editor } = props;
  const own = here.course.people.flatMap((p) => Object.keys(p.fields));
  const columns = [...new Set([...(props.columns ?? []), ...own])];
  const examples = useExamples(here, props.when, props.student).data ?? {};
  const entries = (fields: typeof MERGE_FIELDS, choose: (name: string) => void): InsertEntry[] =>
    fields.map((f) => ({
      key: f.name,
      title: f.title,
      keywords: [f.title, f.name.replace(/[._]/g, ' ')],
      aside: examples[f.name] ?? '—',
      choose: () => choose(f.name),
    }));
  const fallbackOf = (name: string) => FALLBACKS[name] ?? null;
  return (
    <div className="flex flex-wrap gap-2">
      <Menu
        label="+ personal value"
        search="Search: name, missing, due …"
        entries={[
          ...entries(VALUES, (name) => editor.insertField(name, fallbackOf(name))),
          ...columns.map((column): InsertEntry => ({
            key: `column ${column}`,
            group: 'Your own columns',
            title: column,
            keywords: [column],
            aside: '',
            choose: () => editor.insertField(columnField(column), null),
          })),
          ...here.course.items
            .filter((item) => item.dueAt !== null)
            .map((item): InsertEntry => ({
              key: `due ${item.id}`,
              group: 'When an item is due',
              title: item.title,
              keywords: [item.title, 'due', item.group ?? ''],
              aside: whenOf(item, here.course.timeZone),
              choose: () => editor.insertField(itemDueField(item.id), fallbackOf('item.due')),
            })),
        ]}
      />
      <Menu
        label="+ list"
        search="Search the lists"
        entries={entries(LISTS, (name) => editor.insertList(name, fallbackOf(name)))}
      />
      <Menu
        label="+ link"
        search="Search: an item of the course …"
        entries={[
          ...entries(LINKS, (name) => editor.insertField(name, fallbackOf(name))),
          ...here.course.items.map((item): InsertEntry => ({
            key: `item ${item.id}`,
            group: item.group ?? 'Other items',
            title: item.title,
            keywords: [item.title, item.kind, item.group ?? ''],
            aside: whenOf(item, here.course.timeZone),
            choose: () => editor.insertField(itemLinkField(item.id), null),
          })),
        ]}
      >
        {(close) => (
          <WebLink
            onInsert={(words, url) => {
              close();
              editor.insertLink(words, url);
            }}
          />
        )}
      </Menu>
      <Menu
        label="+ only if there is …"
        search="Search: missing, score …"
        entries={entries([...LISTS, ...VALUES], (name) => editor.insertCondition(name))}
      />
      <PictureButton here={here} onInsert={(file, alt) => editor.insertPicture(file, alt)} />
    </div>
  );
}

function whenOf(item: Item, zone: string): string {
  const at = item.dueAt ?? item.opensAt;
  return at === null ? item.kind : `${item.kind}, ${instantWords(at, zone).replace(/,[^,]*$/, '')}`;
}

interface InsertEntry {
  readonly key: string;
  readonly title: string;
  readonly keywords: readonly string[];
  readonly aside: string;
  readonly group?: string;
  readonly choose: () => void;
}

const BUTTON =
  'rounded-lg border border-dashed border-pine px-2.5 py-1 text-[14px] font-semibold text-pine hover:border-solid';

function Menu(props: {
  readonly label: string;
  readonly search: string;
  readonly entries: readonly InsertEntry[];
  /** Below the entries. */
  readonly children?: (close: () => void) => ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const groups = [...new Set(props.entries.map((e) => e.group ?? ''))];
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className={BUTTON}>{props.label}</Popover.Trigger>
      <Pop label={props.label} focusBack={false} high={420} className="flex w-[440px] flex-col p-3">
        <Command label={props.label} loop filter={wordFilter} className="flex min-h-0 flex-1 flex-col">
          <Command.Input autoFocus placeholder={props.search} aria-label="Search" className="field mb-2 w-full" />
          <Command.List className="min-h-0 flex-1 overflow-auto">
            <Command.Empty className="p-3 text-ink-2">No matches.</Command.Empty>
            {groups.map((group) => (
              <Command.Group
                key={group}
                heading={group || undefined}
                className="[&_[cmdk-group-heading]]:px-2.5 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-[12.5px] [&_[cmdk-group-heading]]:font-semibold [&_[cmdk-group-heading]]:text-ink-3"
              >
                {props.entries
                  .filter((e) => (e.group ?? '') === group)
                  .map((e) => (
                    <Command.Item
                      key={e.key}
                      value={e.key}
                      keywords={[...e.keywords]}
                      onSelect={() => {
                        setOpen(false);
                        e.choose();
                      }}
                      className="flex cursor-pointer items-baseline gap-3 rounded-lg px-2.5 py-1.5 data-[selected=true]:bg-fog"
                    >
                      <span className="font-semibold">{e.title}</span>
                      <span className="ml-auto max-w-[36%] shrink-0 truncate text-[13px] text-ink-2">{e.aside}</span>
                    </Command.Item>
                  ))}
              </Command.Group>
            ))}
          </Command.List>
        </Command>
        {props.children?.(() => setOpen(false))}
      </Pop>
    </Popover.Root>
  );
}

/** A link to anywhere else. */
function WebLink({ onInsert }: { readonly onInsert: (words: string, url: string) => void }) {
  const [words, setWords] = useState('');
  const [url, setUrl] = useState('');
  const ready = words.trim() !== '' && isTypedAddress(url.trim());
  return (
    <form
      className="mt-2 grid grid-cols-[1fr_1.4fr_auto] gap-2 border-t border-line pt-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (ready) onInsert(words.trim().replace(/[[\]]/g, ' '), url.trim());
      }}
    >
      <input
        aria-label="Text of the link"
        placeholder="Text"
        className="field min-w-0"
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      <input
        aria-label="Address of the link"
        placeholder="https:// …"
        className="field min-w-0"
        value={url}
        onChange={(e) => setUrl(e.target.value)}
      />
      <button type="submit" disabled={!ready} className="rounded-lg px-2 font-semibold text-pine disabled:text-ink-3">
        Insert
      </button>
    </form>
  );
}

function PictureButton(props: { readonly here: CourseHere; readonly onInsert: (file: string, alt: string) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const take = async (file: File) => {
    try {
      const { id } = await uploadFile(props.here.id, file);
      setChosen(id);
    } catch (error) {
      toast.error(errorWords(error));
    }
  };
  return (
    <>
      <button type="button" className={BUTTON} onClick={() => input.current?.click()}>
        + picture
      </button>
      <input
        ref={input}
        type="file"
        accept=".png,.jpg,.jpeg,.gif"
        aria-label="A picture for the text"
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = '';
          if (file) void take(file);
        }}
      />
      {chosen !== null && (
        <DescribeDialog
          source={pictureUrl(props.here.id, chosen)}
          onDone={(alt) => {
            setChosen(null);
            props.onInsert(chosen, alt);
          }}
          onClose={() => setChosen(null)}
        />
      )}
    </>
  );
}

/** Asks for the picture’s description, which may be left out for a decorative picture. */
function DescribeDialog(props: {
  readonly source: string;
  readonly onDone: (alt: string) => void;
  readonly onClose: () => void;
}) {
  const [alt, setAlt] = useState('');
  return (
    <Dialog
      open
      onClose={props.onClose}
      title="Describe the picture"
      note="Readers who cannot see it, or whose mail program does not load pictures, get this text."
      foot={
        <>
          <Button
            look="main"
            disabled={alt.trim() === ''}
            onClick={() => props.onDone(alt.replace(/[[\]]/g, '').trim())}
          >
            Insert the picture
          </Button>
          <Button className="ml-auto" onClick={() => props.onDone('')}>
            It needs no description
          </Button>
        </>
      }
    >
      <div className="grid gap-3 px-6 py-5">
        <img src={props.source} alt="" className="max-h-48 max-w-full justify-self-start" />
        <Labelled label="What it shows">
          {(id) => (
            <input id={id} className="field" maxLength={300} value={alt} onChange={(e) => setAlt(e.target.value)} />
          )}
        </Labelled>
      </div>
    </Dialog>
  );
}
