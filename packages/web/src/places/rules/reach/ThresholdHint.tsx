/** What the threshold that is there, and the one beside it, would have found of those one worries about now. Never a change on its own. */
import { useQuery } from '@tanstack/react-query';
import { conditionSentence, valueWords, type Leaf } from '@zest-bell/core/conditions';
import { contract } from '@zest-bell/core/contract';
import { CATALOGUE } from '@zest-bell/core/measures';
import { dayWords } from '@zest-bell/core/time';
import { ask } from '../../../lib/api.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { useSettled } from '../../../ui/useSettled.ts';

/** The next threshold that finds more: one step less of what is much, one step more of what is little. */
function beside({ measure, is, value }: Leaf): number | null {
  if (typeof value !== 'number') return null;
  const step = CATALOGUE[measure].unit === 'percent' ? 5 : 1;
  if (is === '>=' || is === '>') return value - step >= 0 ? value - step : null;
  return is === '<=' || is === '<' ? value + step : null;
}

export function ThresholdHint({ here, leaf }: { readonly here: CourseHere; readonly leaf: Leaf }) {
  const settled = useSettled(leaf, 600);
  const other = beside(settled);
  const hint = useQuery({
    queryKey: ['threshold', here.id, here.answer.version, JSON.stringify(settled), here.now],
    queryFn: ({ signal }) =>
      ask(
        contract.rounds.thresholdHint,
        { course: here.id },
        { body: { when: settled, values: [other!, settled.value as number] }, signal },
      ),
    enabled: other !== null,
  });
  if (other === null || !hint.data) return null;
  const { by, worried, values } = hint.data;
  const [near, own] = values;
  if (!near || !own || (own.found === 0 && near.found === 0)) return null;
  const unit = CATALOGUE[settled.measure].unit;
  const at = (value: number) => valueWords(value, unit);
  return (
    <div className="mt-1.5 text-[13.5px] text-ink-2" data-testid="threshold-hint">
      <p>
        Read on {dayWords(by, here.course.timeZone)}, of the {worried} who{' '}
        {conditionSentence(here.answer.worry, here.course)} now, this would have found
      </p>
      <table>
        <tbody className="tabular-nums">
          {[near, own].map((value) => (
            <tr key={value.value} className={value === own ? 'font-semibold text-ink' : ''}>
              <th scope="row" className="pr-4 text-left font-[inherit]">
                at {at(value.value)}
              </th>
              <td className="pr-4">{value.found} of them</td>
              <td>and {value.needless} who did fine</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
