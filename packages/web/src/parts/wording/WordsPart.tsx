/** Subject and text of one place of a wording, written with chips or as source. */
import { lazy, Suspense, useState } from 'react';
import { Bold, Italic, List } from 'lucide-react';
import type { Condition } from '@zest-bell/core/conditions';
import type { Variant } from '@zest-bell/core/wording';
import type { CourseHere } from '../../lib/here.ts';
import { Labelled } from '../../ui/fields.tsx';
import { InsertMenus } from './InsertMenus.tsx';
import type { WordsHandle } from './WordsEditor.tsx';

/** The editor comes when words are written: it is kept out of everything else. */
const WordsEditor = lazy(() => import('./WordsEditor.tsx'));

export function WordsPart(props: {
  readonly here: CourseHere;
  readonly words: Variant;
  readonly when: Condition | null;
  readonly student: string;
  readonly problemOf: (path: 'subject' | 'text') => string | undefined;
  readonly onChange: (part: Partial<Variant>) => void;
  /** Columns beside those of the course, as of a sheet. */
  readonly columns?: readonly string[] | undefined;
}) {
  const { here, words, problemOf, onChange } = props;
  const [source, setSource] = useState(false);
  const [editor, setEditor] = useState<WordsHandle | null>(null);
  return (
    <>
      {source ? (
        <Labelled label="Subject" problem={problemOf('subject')}>
          {(id) => (
            <input
              id={id}
              className="field font-num text-[13.5px]"
              value={words.subject}
              aria-invalid={problemOf('subject') !== undefined}
              aria-describedby={problemOf('subject') && `${id}-problem`}
              onChange={(e) => onChange({ subject: e.target.value })}
            />
          )}
        </Labelled>
      ) : (
        <div className="flex flex-col gap-1">
          <span className="text-[13px] font-semibold text-ink-2">Subject</span>
          <Suspense fallback={<div className="field">…</div>}>
            <WordsEditor
              single
              label="Subject"
              value={words.subject}
              invalid={problemOf('subject') !== undefined}
              describedBy={undefined}
              onChange={(subject) => onChange({ subject })}
              onActive={setEditor}
            />
          </Suspense>
          <ProblemLine of={problemOf('subject')} />
        </div>
      )}
      <div className="flex flex-col gap-1">
        <div className="flex items-center gap-3 text-[13px] font-semibold text-ink-2">
          <span>Text</span>
          {!source && editor && (
            <span role="toolbar" aria-label="Bold, italic and lists" className="flex gap-0.5">
              <Tool label="Strong" keys="Ctrl B" onClick={() => editor.toggle('bold')}>
                <Bold size={15} aria-hidden />
              </Tool>
              <Tool label="Italic" keys="Ctrl I" onClick={() => editor.toggle('italic')}>
                <Italic size={15} aria-hidden />
              </Tool>
              <Tool label="Bulleted list" keys="- and a blank" onClick={() => editor.toggle('list')}>
                <List size={15} aria-hidden />
              </Tool>
            </span>
          )}
          <button
            type="button"
            aria-pressed={source}
            className="ml-auto underline-offset-4 hover:underline aria-pressed:text-pine"
            onClick={() => setSource(!source)}
          >
            {source ? 'Show chips' : 'Show the source'}
          </button>
        </div>
        {source ? (
          <textarea
            aria-label="Text"
            className="field min-h-[220px] font-num text-[13.5px] leading-relaxed"
            value={words.text}
            aria-invalid={problemOf('text') !== undefined}
            onChange={(e) => onChange({ text: e.target.value })}
          />
        ) : (
          <Suspense fallback={<div className="field min-h-[220px]">Loading the editor …</div>}>
            <WordsEditor
              label="Text"
              value={words.text}
              invalid={problemOf('text') !== undefined}
              describedBy={undefined}
              onChange={(text) => onChange({ text })}
              onActive={setEditor}
            />
          </Suspense>
        )}
        <ProblemLine of={problemOf('text')} />
      </div>
      {!source && editor && (
        <InsertMenus here={here} when={props.when} student={props.student} editor={editor} columns={props.columns} />
      )}
    </>
  );
}

const ProblemLine = ({ of: problem }: { readonly of: string | undefined }) =>
  problem === undefined ? null : <p className="text-[13px] font-semibold text-tangerine-text">▲ {problem}</p>;

function Tool(props: {
  readonly label: string;
  readonly keys: string;
  readonly onClick: () => void;
  readonly children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={props.label}
      title={`${props.label} (${props.keys})`}
      // The text keeps its selection.
      onMouseDown={(e) => e.preventDefault()}
      onClick={props.onClick}
      className="grid size-6 place-items-center rounded hover:bg-fog hover:text-ink"
    >
      {props.children}
    </button>
  );
}
