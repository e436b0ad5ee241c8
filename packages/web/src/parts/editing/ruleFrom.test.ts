/** A rule made of a condition that was found by looking. */
import { describe, expect, test } from '@jest/globals';
import type { WordingAnswer } from '@zest-bell/core/exchange';
import { course } from '../../testing/course.ts';
import { hereOf } from '../../testing/here.ts';
import { network, FakeRefusal } from '../../testing/network.ts';
import { nameFrom, ruleFrom } from './ruleFrom.ts';

const away = { measure: 'daysSinceVisit', is: '>=', value: 5 } as const;
const low = { measure: 'score', item: 'q1', is: '<=', value: 50 } as const;
const wording = (id: string, purpose: string, text = 'Come by.') =>
  ({ id, purpose, subject: 'A word', text, name: id }) as unknown as WordingAnswer;
const wordings = [wording('praise', 'praise'), wording('gentle', 'support')];

describe('its name', () => {
  test('says the condition', () => {
    expect(nameFrom(away, course)).toBe('Have not visited the course for 5 days');
  });

  test('is cut between words where it is long', () => {
    const name = nameFrom({ all: [away, low, { ...low, item: 'q2' }] }, course);
    expect(name.length).toBeLessThanOrEqual(80);
    expect(name).toMatch(/[a-z0-9%]…$/);
    expect(name).not.toMatch(/\s…$/);
  });
});

describe('its text', () => {
  const made = (answers: Record<string, unknown> = {}) => {
    const asked = network({ 'POST /courses/1/rules': { rule: { id: 'new' } }, ...answers });
    const bodies = () => asked.filter((a) => a.path === '/courses/1/rules').map((a) => a.body);
    return { asked, bodies };
  };
  const rule = { name: 'Away', when: away };
  const written = { subject: 'A word', text: 'Come by.', files: [], letter: null };

  test('is the first for its purpose, or the first there is', async () => {
    const { bodies } = made();
    await ruleFrom(hereOf(), wordings, { ...rule, purpose: 'support' });
    await ruleFrom(hereOf(), wordings, { ...rule, purpose: 'reminder' });
    expect(bodies()).toMatchObject([
      { rule: { name: 'Away', status: 'draft', when: away, steps: [{ wording: 'gentle' }] } },
      { rule: { steps: [{ wording: 'praise' }] } },
    ]);
  });

  test('is what was just written by hand: the wording that says so already, or a new one', async () => {
    const { asked, bodies } = made({ 'POST /courses/1/wordings': { id: 'fresh' } });
    await ruleFrom(hereOf(), wordings, { ...rule, written });
    expect(asked.some((a) => a.path === '/courses/1/wordings')).toBe(false);
    await ruleFrom(hereOf(), wordings, { ...rule, written: { ...written, text: 'Another text.' } });
    expect(asked.find((a) => a.path === '/courses/1/wordings')?.body).toMatchObject({
      wording: { name: 'Away', purpose: 'support', text: 'Another text.' },
    });
    expect(bodies().at(-1)).toMatchObject({ rule: { steps: [{ wording: 'fresh' }] } });
  });

  test('is missing in a course without wordings, and a refusal makes no rule', async () => {
    made();
    expect(await ruleFrom(hereOf(), [], rule)).toBeNull();
    network({ 'POST /courses/1/rules': new FakeRefusal(400, { title: 'No.', code: 'invalidInput' }) });
    expect(await ruleFrom(hereOf(), wordings, rule)).toBeNull();
  });
});
