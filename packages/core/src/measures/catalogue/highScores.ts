import { countOfScores } from './countOfScores.ts';

export const highScores = countOfScores({
  name: 'highScores',
  mergeField: 'student.high_scores',
  title: 'How many high scores',
  word: 'at or over',
  say: '[at or] over|above',
  fits: (score, than) => score >= than,
});
