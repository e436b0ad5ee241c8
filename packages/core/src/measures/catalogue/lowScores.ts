import { countOfScores } from './countOfScores.ts';

export const lowScores = countOfScores({
  name: 'lowScores',
  mergeField: 'student.low_scores',
  title: 'How many low scores',
  word: 'under',
  say: 'under|below',
  fits: (score, than) => score < than,
});
