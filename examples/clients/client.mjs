// Brings an event in, lists who is falling through, and saves the send log. ZEST_URL, ZEST_COURSE and ZEST_TOKEN say where.
import { randomUUID } from 'node:crypto';
import { writeFileSync } from 'node:fs';
const { ZEST_URL, ZEST_COURSE, ZEST_TOKEN } = process.env;
const [person, at, file = 'send-log.json'] = process.argv.slice(2);
const ask = async (path, body) => {
  const headers = { authorization: `Bearer ${ZEST_TOKEN}`, 'content-type': 'application/json' };
  const answer = await fetch(
    `${ZEST_URL}/api/v1${path}`,
    body ? { method: 'POST', headers, body: JSON.stringify(body) } : { headers },
  );
  if (!answer.ok) throw new Error(`${answer.status} ${(await answer.json()).title}`);
  return answer.json();
};
console.log(JSON.stringify(await ask('/activity', { events: [{ id: randomUUID(), person, kind: 'visit', at }] })));
console.log(JSON.stringify(await ask(`/courses/${ZEST_COURSE}/falling`)));
writeFileSync(file, JSON.stringify(await ask(`/courses/${ZEST_COURSE}/log?take=200`)));
