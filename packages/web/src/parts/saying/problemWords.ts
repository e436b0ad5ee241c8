import { plural } from '@zest-bell/core/time';
import type { SayingProblem } from '@zest-bell/core/saying';

/** What is wrong with a part of a text, and what to do. */
export function problemWords({ code, from, to, near }: SayingProblem, text: string): string {
  const words = `“${text.slice(from, to)}”`;
  switch (code) {
    case 'unknownWord':
      return near.length > 0
        ? `${words} is not known here. Did you mean:`
        : `${words} is not known here. Try other words.`;
    case 'ambiguous':
      return `What does ${words} mean?`;
    case 'incomplete':
      if (to === from) return 'Say whom it is for, too, such as:';
      return near.length > 0 ? `Something is missing after ${words}, such as:` : `Something is missing after ${words}.`;
    case 'refused':
      return `${words}: ${near[0] ?? 'This is not possible here.'}`;
    case 'nothing':
      return '';
  }
}

/** How many problems there are, and the first: for those who hear the page. */
export const problemsInBrief = (problems: readonly SayingProblem[], text: string): string =>
  `${plural(problems.length, 'problem')}. ${problemWords(problems[0]!, text)}`;
