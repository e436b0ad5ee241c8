/** The sheet with which a course begins: dropped or chosen, shown as it will be read, with what it lacks asked about. */
import { plural } from '@zest-bell/core/time';
import { makeCourse } from '@zest-bell/core/course';
import type { FromFileAnswer, ImportDecisions } from '@zest-bell/core/imports';
import { FileSpreadsheet } from 'lucide-react';
import { Columns } from '../../parts/files/Columns.tsx';
import { HeaderRows, SAY_WHAT_IT_IS } from '../../parts/files/HeaderRows.tsx';
import { Refusals } from '../../parts/files/Refusals.tsx';
import { Button } from '../../ui/Button.tsx';
import { DropZone } from '../../ui/DropZone.tsx';

export interface NewCourseSheet {
  readonly file: File;
  readonly decisions: ImportDecisions;
  /** Null while it is being read. */
  readonly answer: FromFileAnswer | null;
}

export function SheetPart(props: {
  readonly sheet: NewCourseSheet | null;
  readonly trouble: string;
  readonly timeZone: string;
  readonly onFile: (file: File | null) => void;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}) {
  const { sheet, trouble } = props;
  return (
    <section aria-label="Start with your spreadsheet" className="mt-5 grid gap-3">
      <DropZone
        icon={FileSpreadsheet}
        title={sheet ? sheet.file.name : 'Start with your spreadsheet'}
        about={
          sheet
            ? 'Nothing is saved until you create the course.'
            : 'Names, addresses, scores and totals in one spreadsheet are enough: Excel or CSV, one row per student.'
        }
        choose={sheet ? 'Another sheet' : 'Choose your sheet'}
        label="Choose your sheet"
        accept=".csv,.tsv,.txt,.xlsx"
        quiet
        onFiles={([file]) => props.onFile(file!)}
      >
        {sheet && (
          <Button look="quiet" onClick={() => props.onFile(null)}>
            Without a sheet
          </Button>
        )}
      </DropZone>
      {trouble !== '' && (
        <p role="alert" className="rounded-xl bg-tangerine-soft px-4 py-2.5 text-tangerine-text">
          ▲ {trouble}
        </p>
      )}
      {sheet && sheet.answer === null && trouble === '' && <p className="px-1 text-ink-3">Reading the sheet …</p>}
      {sheet?.answer && <Read {...props} sheet={sheet} answer={sheet.answer} />}
    </section>
  );
}

function Read(props: {
  readonly sheet: NewCourseSheet;
  readonly answer: FromFileAnswer;
  readonly timeZone: string;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}) {
  const { answer, timeZone } = props;
  const seen = answer.preview;
  // Nobody and nothing is in it yet.
  const course = makeCourse({
    code: '',
    title: '',
    timeZone,
    start: '2020-01-01',
    end: '2020-01-02',
    breaks: [],
    groupWeights: null,
    marks: {},
    settings: { quietHours: null, budget: null },
    people: [],
    items: [],
  });
  return (
    <article aria-label={seen.name} className="min-w-0 rounded-[16px] border border-line bg-sheet px-5 py-4">
      {seen.sheets.length > 1 && (
        <select
          aria-label="Sheet"
          className="field"
          value={seen.sheet ?? ''}
          onChange={(e) =>
            props.onDecide({
              sheet: e.target.value,
              header: undefined,
              isSure: undefined,
              outOf: {},
              told: {},
              mended: {},
            })
          }
        >
          {seen.sheets.map((name) => (
            <option key={name} value={name}>
              {name}
            </option>
          ))}
        </select>
      )}
      {seen.trouble !== null && (
        <p role="alert" className="rounded-xl bg-tangerine-soft px-4 py-2.5 text-tangerine-text">
          ▲ {seen.trouble} {SAY_WHAT_IT_IS}
        </p>
      )}
      <HeaderRows seen={seen} onDecide={props.onDecide} />
      {seen.columns.length > 0 && (
        <Columns
          key={seen.trouble === null ? 'read' : 'unread'}
          here={{ course }}
          seen={seen}
          onDecide={props.onDecide}
        />
      )}
      <Refusals here={{ course }} seen={seen} onDecide={props.onDecide} />
    </article>
  );
}

/** “Create course with 20 people and 6 items”. */
export function createWords(answer: FromFileAnswer | null): string {
  if (!answer) return 'Create course';
  const { added, tally } = answer.preview;
  const people = tally?.people ?? 0;
  const parts = [
    people > 0 && plural(people, 'person', 'people'),
    added.items > 0 && plural(added.items, 'item'),
  ].filter(Boolean);
  return parts.length === 0 ? 'Create course' : `Create course with ${parts.join(' and ')}`;
}
