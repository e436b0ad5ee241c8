/** One number of a rule over its range: students reached, nudges, and how late they come; a value goes into the composer. */
import { useMemo, useState } from 'react';
import { oneDecimal, plural } from '@zest-bell/core/time';
import { numbersOf, withNumbers, type RuleNumber } from '@zest-bell/core/rules';
import { valuesToTry, type VariedReplay } from '@zest-bell/core/outcomes';
import { contract } from '@zest-bell/core/contract';
import type { CourseHere } from '../../lib/here.ts';
import { useLongWork } from '../../lib/useLongWork.ts';
import { ChartCard, type ChartCardProps } from '../../parts/charts/ChartCard.tsx';
import { titleOf, valuesOption } from '../../parts/charts/valuesChart.ts';
import { Button } from '../../ui/Button.tsx';
import { SelectField } from '../../ui/fields.tsx';
import { Progress } from '../../parts/common/Progress.tsx';
import { Failed } from '../../parts/common/States.tsx';
import { orderOf, type TriedState } from './tried.ts';
import { useTakeIntoComposer } from './WhatIf.tsx';

export function VaryPart({ here, tried }: { readonly here: CourseHere; readonly tried: TriedState }) {
  const { shown, card } = tried;
  const [path, setPath] = useState<string | null>(null);
  const [picked, setPicked] = useState(-1);
  const take = useTakeIntoComposer(here);
  const numbers = useMemo(() => (shown ? numbersOf(shown, here.course) : []), [shown, here.course]);
  const number = numbers.find((n) => n.path === path) ?? numbers[0] ?? null;
  const order = number && { ...orderOf(here, tried, true), path: number.path, values: valuesToTry(number) };
  const work = useLongWork(
    ['vary', here.id, here.answer.version, here.now],
    contract.rounds.vary,
    { course: here.id },
    order,
  );
  const { data, told } = work;
  const seen = useMemo(
    () => data ?? told.flatMap((t) => (t['varied'] as VariedReplay | undefined) ?? []),
    [data, told],
  );
  const chart = useMemo(() => (number && seen.length > 0 ? varyChart(seen, number) : null), [seen, number]);
  if (!shown || !card || !number) return null;
  const value = seen[picked]?.value ?? number.value;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-2">
      {chart && <ChartCard {...chart} fileName={`${here.course.code} one number varied`} onPick={setPicked} />}
      {work.error !== null && <Failed error={work.error} retry={work.again} />}
      <Progress work={work} what="the other values" />
      <div className="flex flex-wrap items-end gap-3">
        {numbers.length > 1 && (
          <SelectField
            label="Number that varies"
            className="max-w-full min-w-0"
            value={number.path}
            onChange={(e) => setPath(e.target.value)}
          >
            {numbers.map((n) => (
              <option key={n.path} value={n.path}>
                {n.of}: {n.label}
              </option>
            ))}
          </SelectField>
        )}
        {seen.length > 0 && (
          <>
            <SelectField
              label="Value"
              value={String(value)}
              onChange={(e) => setPicked(seen.findIndex((v) => String(v.value) === e.target.value))}
            >
              {!seen.some((v) => v.value === value) && <option value={String(value)}>{oneDecimal(value)}</option>}
              {seen.map((v) => (
                <option key={v.value} value={String(v.value)}>
                  {oneDecimal(v.value)}: {plural(v.reached, 'student')}, {plural(v.nudges, 'nudge')}
                </option>
              ))}
            </SelectField>
            <Button
              disabled={value === number.value}
              onClick={() => take(card, withNumbers(shown, here.course, new Map([[number.path, value]])))}
            >
              Open {oneDecimal(value)} in the composer
            </Button>
          </>
        )}
      </div>
    </div>
  );
}

function varyChart(seen: readonly VariedReplay[], number: RuleNumber): Omit<ChartCardProps, 'fileName'> {
  const [first, last] = [seen[0]!, seen.at(-1)!];
  const words = (v: VariedReplay) =>
    `At ${oneDecimal(v.value)}: ${plural(v.reached, 'student')} reached, ${plural(v.nudges, 'nudge')}.`;
  const says = seen.length === 1 ? words(first) : `${words(first)} ${words(last)}`;
  return {
    title: titleOf(number),
    says,
    height: 270,
    option: (look) =>
      valuesOption(look, {
        says,
        number,
        tried: seen.map((v) => v.value),
        left: { minInterval: 1 },
        lines: [
          { name: 'students reached', data: seen.map((v) => v.reached) },
          { name: 'nudges', data: seen.map((v) => v.nudges) },
        ],
        days: { name: 'days from match to first nudge', data: seen.map((v) => v.notice) },
      }),
    table: {
      columns: ['Value', 'Students reached', 'Nudges', 'Half from match to nudge within, days'],
      rows: seen.map((v) => [v.value, v.reached, v.nudges, v.notice]),
    },
  };
}
