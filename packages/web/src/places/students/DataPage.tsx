/** Everything that is known of one student, as a page that reads well and can be printed or handed over. For owners. */
import { Fragment } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';
import { instantWords, plural } from '@zest-bell/core/time';
import { evidenceWords, type LeafEvidence } from '@zest-bell/core/conditions';
import { fullName } from '@zest-bell/core/course';
import type { DataPart, StudentData } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask, linkTo } from '../../lib/api.ts';
import { useHere } from '../../lib/here.ts';
import { Button, LinkButton } from '../../ui/Button.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { Page } from '../../ui/Page.tsx';

type StudentDataPart = Exclude<keyof StudentData, 'format' | 'madeAt' | 'course' | 'person' | 'seenBy'>;

const TITLES: Readonly<Record<StudentDataPart, string>> = {
  nudges: 'Nudges',
  mail: 'Mail',
  replies: 'Replies',
  answers: 'Answers to replies',
  heldBack: 'Nudges that limits held back',
  notes: 'Notes about the student',
  setAside: 'Set aside',
  grades: 'Grades',
  activity: 'Activity',
  takenBack: 'Taken back as wrong',
  changes: 'Changes of course data that name the student',
  statements: 'Statements from platforms',
};

/** More entries of one kind are in the file alone. */
const MOST = 1000;

export function DataPage() {
  const here = useHere();
  const { student = '' } = useParams();
  const person = here.course.people[here.course.personIndex.get(student) ?? -1];
  const data = useQuery({
    queryKey: ['student-data', here.id, student],
    queryFn: () => ask(contract.erasure.data, { course: here.id, student }),
    enabled: person !== undefined,
    // It is to be as of now whenever it is opened.
    gcTime: 0,
  });
  if (!person) return <Empty title="Student not found">This student is not in the course.</Empty>;
  if (data.isError) return <Failed error={data.error} retry={() => void data.refetch()} />;
  if (!data.data) return <Loading what={`the data of ${fullName(person)}`} />;
  const all = data.data;
  const zone = here.course.timeZone;
  return (
    <Page
      title={`Everything Zest Bell knows about ${fullName(person)}`}
      actions={
        <>
          <Button onClick={() => window.print()}>Print</Button>
          <LinkButton reloadDocument download to={linkTo(contract.erasure.data, { course: here.id, student })}>
            Save as a file
          </LinkButton>
        </>
      }
    >
      <article className="max-w-[860px]">
        <p className="text-ink-2">
          <Link
            className="mr-2 font-semibold text-pine underline-offset-4 hover:underline print:hidden"
            to={`/c/${here.id}/students/${encodeURIComponent(student)}?part=facts`}
          >
            ← {fullName(person)}
          </Link>
          {all.course.code} {all.course.title}, as of {momentWords(all.madeAt, zone)}
        </p>
        <Heading>Person</Heading>
        <Entry entry={all.person} zone={zone} />
        {(Object.keys(TITLES) as StudentDataPart[]).map((part) => (
          <Section key={part} title={TITLES[part]} entries={all[part]} zone={zone} />
        ))}
        <Heading>Who has access to the course</Heading>
        <p>{all.seenBy.join(', ')}</p>
      </article>
    </Page>
  );
}

const Heading = ({ children }: { readonly children: string }) => (
  <h2 className="mt-6 mb-1 border-b border-line pb-1 text-[18px] font-bold">{children}</h2>
);

function Section(props: { readonly title: string; readonly entries: DataPart; readonly zone: string }) {
  const { title, entries, zone } = props;
  return (
    <section aria-label={title}>
      <Heading>{title}</Heading>
      {entries.length === 0 && <p className="text-ink-3">None.</p>}
      <ol>
        {entries.slice(0, MOST).map((entry, i) => (
          <li key={i} className="border-b border-line py-1.5 break-inside-avoid last:border-b-0">
            <Entry entry={entry} zone={zone} />
          </li>
        ))}
      </ol>
      {entries.length > MOST && (
        <p className="text-ink-2">{plural(entries.length - MOST, 'more entry', 'more entries')} in the file.</p>
      )}
    </section>
  );
}

function Entry(props: { readonly entry: Readonly<Record<string, unknown>>; readonly zone: string }) {
  const told = Object.entries(props.entry).filter(([, value]) => !isNothing(value));
  return (
    <dl className="grid grid-cols-[140px_minmax(0,1fr)] gap-x-3 text-[14.5px]">
      {told.map(([key, value]) => (
        <Fragment key={key}>
          <dt className="text-ink-3">{keyWords(key)}</dt>
          <dd className="break-words whitespace-pre-line">{valueWords(key, value, props.zone)}</dd>
        </Fragment>
      ))}
    </dl>
  );
}

const isNothing = (value: unknown): boolean =>
  value === null ||
  value === undefined ||
  value === '' ||
  (typeof value === 'object' && Object.keys(value).length === 0);

/** `takenBackAt`: "taken back at". */
const keyWords = (key: string): string => key.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`);

const MOMENTS: readonly string[] = ['at', 'from', 'to', 'until', 'takenBackAt', 'enrolledAt'];

function valueWords(key: string, value: unknown, zone: string): string {
  if (key === 'because') return evidenceWords(value as LeafEvidence[], zone);
  if (MOMENTS.includes(key) && typeof value === 'string') return momentWords(value, zone);
  return plainWords(value);
}

/** A moment as the file writes it, in words; another text as it is. */
function momentWords(text: string, zone: string): string {
  const at = /^\d{4}-\d\d-\d\dT/.test(text) ? Date.parse(text) : NaN;
  return Number.isNaN(at) ? text : instantWords(at, zone);
}

/** Lists and objects a line for each part. */
function plainWords(value: unknown, deep = ''): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value !== 'object' || value === null) return String(value);
  const parts = Array.isArray(value)
    ? value.map((v) => plainWords(v, deep))
    : Object.entries(value)
        .filter(([, v]) => !isNothing(v))
        .map(([k, v]) => `${deep}${keyWords(k)}: ${typeof v === 'object' ? '\n' : ''}${plainWords(v, `${deep}  `)}`);
  return parts.join('\n');
}
