// Tells a visit and makes a rule, with types made from the installation's own document and no cast:
//   npx openapi-typescript "$ZEST_URL/api/openapi.json" --default-non-nullable false --output schema.ts
//   npm install openapi-fetch
// ZEST_URL, ZEST_COURSE and ZEST_TOKEN say where; the token needs data.write and drafts.write.
import { randomUUID } from 'node:crypto';
import createClient from 'openapi-fetch';
import type { components, paths } from './schema.ts';

const { ZEST_URL: baseUrl = '', ZEST_COURSE: course, ZEST_TOKEN: token } = process.env;
const [person = '', at = '', wording = ''] = process.argv.slice(2);
const client = createClient<paths>({ baseUrl, headers: { authorization: `Bearer ${token}` } });

const events: components['schemas']['ActivityEventDocument'][] = [{ id: randomUUID(), person, kind: 'visit', at }];
const told = await client.POST('/api/v1/activity', { body: { events } });
if (told.error) throw new Error(told.error.title);
console.log(JSON.stringify(told.data));

const rule: components['schemas']['RuleDocument'] = {
  id: 'away-a-week',
  name: 'Away for a week',
  status: 'draft',
  audience: { roles: ['student'] },
  when: { measure: 'daysSinceVisit', is: '>=', value: 7 },
  rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=WEEKLY;BYDAY=MO' },
  steps: [{ deliver: 'hold', to: ['student'], wording }],
};
const made = await client.POST('/api/v1/courses/{course}/rules', {
  params: { path: { course: Number(course) } },
  body: { rule },
});
if (made.error) throw new Error(made.error.title);
console.log(JSON.stringify(made.data.sentence));
