/** The end of a term: what became of it, on one page. */
import { z } from 'zod';
import type { TermReport } from '../term/reportData.ts';
import { documentOf } from './documents.ts';
import { file, lines, post } from './endpoint.ts';

const order = z.strictObject({
  /** The outcome that one worries about. */
  outcome: documentOf('Condition'),
});

export const term = {
  report: post('/courses/{course}/term/report', 'course.read', 'What became of the term', {
    body: order,
    answer: lines<TermReport>(),
  }),
  pdf: post('/courses/{course}/term/pdf', 'course.read', 'What became of the term, to print', {
    body: order,
    answer: file,
  }),
};
