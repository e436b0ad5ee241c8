/** A rule about students who are away, for tests of what is done with rules. */
import { parseRule, type Rule } from '@zest-bell/core/rules';

export function ruleOf(more: Record<string, unknown> = {}): Rule {
  const parsed = parseRule({
    id: 'quiet',
    name: 'Quiet for five days',
    status: 'on',
    audience: { roles: ['student'] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' },
    steps: [{ deliver: 'send', to: ['student'], wording: 'gentle' }],
    ...more,
  });
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
}
