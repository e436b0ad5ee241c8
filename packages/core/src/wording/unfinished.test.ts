import { describe, expect, test } from '@jest/globals';
import { STARTERS } from '../starters/starters.ts';
import { unfinishedParts } from './unfinished.ts';

describe('a text looks unfinished', () => {
  test.each<[string, readonly string[]]>([
    ['I saw your score on [quiz name here] and', ['[quiz name here]', 'on [quiz name here] and …']],
    ['Dear [name],\n\nplease come to my office hours.', ['[name]']],
    ['TODO: ask about the lab', ['TODO']],
    ['On \\[quiz name here\\] you had \\_\\_\\_\\_.', ['[quiz name here]', '____']],
    ['The lab is due on ____.', ['____']],
    ['I would like to talk with you about the\n\nWarmly,\nR. Ostrander', ['talk with you about the …']],
  ])('%j', (text, parts) => {
    expect(unfinishedParts(text)).toEqual(expect.arrayContaining([...parts]));
  });

  test.each([
    'Hi {{ student.first_name }},\n\nyou have not been here since {{ student.last_visit }}.\n\nWarmly,\nR. Ostrander',
    'Open [the quiz](https://campus.example/q1), and ![a chart](picture.png) helps.',
    '- [ ] read chapter 3\n- [x] watch the video',
    'See [1] and [2] in the handout.',
    'Tell me what to look for',
    'Best wishes from all of us,\nthe teaching team',
  ])('%j does not', (text) => {
    expect(unfinishedParts(text)).toEqual([]);
  });

  test('no text of a starter does', () => {
    const texts = STARTERS.flatMap(({ wordings }) =>
      wordings.flatMap((w) => [w, ...(w.variants ?? []), ...(w.copies ?? [])]),
    );
    expect(texts.flatMap(({ subject, text }) => [...unfinishedParts(subject ?? ''), ...unfinishedParts(text)])).toEqual(
      [],
    );
  });
});
