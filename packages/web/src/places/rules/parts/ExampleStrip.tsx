/** A made-up student at whom the repeat limit and the steps are seen at work, on the rule's own rounds. */
import { useMemo } from 'react';
import { dayWords, instantWords, listWords, plural } from '@zest-bell/core/time';
import { tellsOthersOnly, type Rule } from '@zest-bell/core/rules';
import { exampleLine, WITHHELD_WORDS, type ExampleLine, type ExampleMark } from '@zest-bell/core/rounds';
import type { CourseHere } from '../../../lib/here.ts';

export function ExampleStrip({ here, rule }: { readonly here: CourseHere; readonly rule: Rule }) {
  const { course, now } = here;
  const line = useMemo(() => exampleLine(rule, course, now), [rule, course, now]);
  if (!line) return null;
  const at = (t: number) =>
    `${(Math.min(1, Math.max(0, (t - line.from) / (line.until - line.from))) * 100).toFixed(3)}%`;
  const heard = line.marks.filter((m) => m.kind !== 'withheld');
  const zone = course.timeZone;
  const days = [...new Set(heard.map((m) => dayWords(m.at, zone)))];
  const who = tellsOthersOnly(rule) ? 'You are told about this student' : 'The student is nudged';
  const said = days.length > 6 ? `${days.slice(0, 5).join(', ')} and ${days.length - 5} more days` : listWords(days);
  return (
    <figure className="border-t border-line py-3" data-testid="example">
      <figcaption className="text-[13.5px] text-ink-2">
        <strong className="text-ink">An example.</strong> {storyWords(line, zone)}{' '}
        {heard.length === 0 ? 'No message goes' : `${who} ${plural(heard.length, 'time')}, on ${said}`}.
      </figcaption>
      <div aria-hidden className="relative mt-2 h-9">
        <i className="absolute inset-x-0 top-6 border-t-2 border-line-strong" />
        {line.spells.map(([start, end]) => (
          <i
            key={start}
            className="absolute top-0 h-6 rounded-t bg-zest-area"
            style={{ left: at(start), width: `calc(${at(end)} - ${at(start)})` }}
          />
        ))}
        {line.rounds.map((t) => (
          <i key={t} className="absolute top-6 h-1.5 w-px bg-ink-3" style={{ left: at(t) }} />
        ))}
        {line.marks.map((m, i) => (
          <Mark key={i} mark={m} left={at(m.at)} zone={zone} steps={rule.steps.length} />
        ))}
      </div>
    </figure>
  );
}

/** What happens to the student in the example, in a sentence or two. */
export function storyWords({ story, lastSeen, spells, isOver }: ExampleLine, zone: string): string {
  const day = (t: number) => dayWords(t, zone);
  const [start, end] = spells[0]!;
  const [from, until] = [day(start), day(end)];
  const again = spells[1] ? day(spells[1][0]) : null;
  switch (story) {
    case 'away': {
      const away = `A student was last here on ${day(lastSeen ?? start)}, so matches from ${from}`;
      if (!isOver) return `${away}, and does not come back.`;
      if (again === null) return `${away}, and comes back on ${until}.`;
      return `${away}, comes back on ${until}, and stays away so long again that they match from ${again}.`;
    }
    case 'missing':
      if (!isOver) return `A student matches from ${from} and does not catch up.`;
      if (again === null) return `A student matches from ${from} and catches up on ${until}.`;
      return `A student matches from ${from}, catches up on ${until}, and falls behind again on ${again}.`;
    case 'notDone':
      return `A student matches from ${from} and ${isOver ? `does it on ${until}` : 'does not do it'}.`;
    case 'graded':
      if (!isOver) return `A grade makes a student match from ${from} on.`;
      if (again === null) return `A grade makes a student match from ${from}, and another one ends it on ${until}.`;
      return `A grade makes a student match from ${from}, another one ends it on ${until}, and a third one does it again on ${again}.`;
    case 'dated':
    case 'other':
      if (!isOver) return `A student matches from ${from} on.`;
      if (again === null) return `A student matches from ${from} until ${until}.`;
      return `A student matches from ${from} to ${until}, and again from ${again}.`;
  }
}

function Mark(props: {
  readonly mark: ExampleMark;
  readonly left: string;
  readonly zone: string;
  readonly steps: number;
}) {
  const { mark, left, zone, steps } = props;
  const when = instantWords(mark.at, zone);
  const step = steps > 1 ? String(mark.step + 1) : '';
  if (mark.kind === 'withheld') {
    return (
      <i
        title={`${when}: held back, ${WITHHELD_WORDS[mark.reason!]}`}
        className="absolute top-[15px] size-[5px] -translate-x-1/2 rounded-full border border-line-strong bg-sheet"
        style={{ left }}
      />
    );
  }
  const look = mark.kind === 'heard' ? 'bg-pine text-on-pine' : 'border-2 border-iris bg-sheet text-iris';
  return (
    <span
      title={`${when}: ${mark.kind === 'heard' ? 'is nudged' : 'is waiting for you'}${step && `, step ${step}`}`}
      className={`absolute top-[3px] grid size-[17px] -translate-x-1/2 place-items-center rounded-full font-num text-[11px] leading-none font-bold ${look}`}
      style={{ left }}
    >
      {step}
    </span>
  );
}
