/** Before a rule writes about students to addresses outside the institution: each by name, and a yes that the rule keeps. */
import { plural } from '@zest-bell/core/time';
import { domainsOf } from '@zest-bell/core/course';
import type { Rule } from '@zest-bell/core/rules';
import { outsideOf, type Recipient } from '@zest-bell/core/rounds';
import type { RuleCard } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { Check } from '../../ui/fields.tsx';
import { addressWords } from '../../lib/decisionWords.ts';

/** Outside addresses of a rule, as drafted, that got no yes yet. */
export function newOutside(here: CourseHere, rule: Rule, saved: RuleCard): Recipient[] {
  const domains = domainsOf(here.answer.sender);
  return outsideOf(rule, here.course, domains).filter((to) => !saved.outside.includes(to.address.toLowerCase()));
}

export function AskOutside(props: {
  readonly here: CourseHere;
  readonly addresses: readonly Recipient[];
  readonly yes: boolean;
  readonly onYes: (yes: boolean) => void;
}) {
  const { here, addresses, yes, onYes } = props;
  return (
    <div role="alert" className="border-t border-line bg-tangerine-soft px-6 py-3">
      <p className="text-[14.5px]">
        <span aria-hidden>▲ </span>
        This rule would write about students to <strong>{plural(addresses.length, 'address', 'addresses')}</strong>{' '}
        outside {domainsOf(here.answer.sender).join(', ')}:
      </p>
      <ul className="my-1 max-h-28 overflow-auto text-[14px]">
        {addresses.map((to) => (
          <li key={to.address} className="break-words">
            {addressWords([to])}{' '}
            <span className="text-ink-2">
              {to.reader.replace(/^(contact|address):.*/, (m) => (m.startsWith('contact:') ? `(${m.slice(8)})` : ''))}
            </span>
          </li>
        ))}
      </ul>
      <Check label={<strong>Allow messages about students to these addresses</strong>} checked={yes} onChange={onYes} />
    </div>
  );
}
