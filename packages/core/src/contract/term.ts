/** The end of a term: what became of it, on one page. */
import { z } from 'zod';
import type { TermReport } from '../term/reportData.ts';
import { documentOf } from './documents.ts';
import type { OtherTerm, TermsAnswer } from '../exchange/terms.ts';
import { file, get, json, lines, post } from './endpoint.ts';

const order = z.strictObject({
  /** The outcome that one worries about. */
  outcome: documentOf('Condition'),
});

const pair = order.extend({
  /** The course that it is compared with. */
  other: z.number().int(),
});

export const term = {
  others: get('/courses/{course}/term/others', 'course.read', 'Courses of yours that a term can be compared with', {
    answer: json<OtherTerm[]>(),
  }),
  compare: post('/courses/{course}/term/compare', 'course.read', 'Two terms side by side', {
    body: pair,
    answer: json<TermsAnswer>(),
  }),
  comparePdf: post('/courses/{course}/term/compare/pdf', 'course.read', 'Two terms side by side, to print', {
    body: pair,
    answer: file,
  }),
  report: post('/courses/{course}/term/report', 'course.read', 'What became of the term', {
    body: order,
    answer: lines<TermReport>(),
  }),
  pdf: post('/courses/{course}/term/pdf', 'course.read', 'What became of the term, to print', {
    body: order,
    answer: file,
  }),
};
