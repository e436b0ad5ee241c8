/** How the term went, as a PDF to print and to file. */
import { WITHHELD_WORDS } from '@zest-bell/core/rounds';
import type { TermReport } from '@zest-bell/core/term';
import { dateWords, longDayWords, plural } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { newDocument, pdfOf, type Doc } from '../../wording/letters/document.ts';

export const INK = '#14211d';
export const FAINT = '#4b5a54';
const LINE = '#d9e1db';

export async function termPdf(report: TermReport, outcome: string, course: Course): Promise<Buffer> {
  const title = `How the term went: ${course.code} ${course.title}`;
  const doc = await newDocument({ page: 'Letter', title, author: 'Zest Bell', at: report.at });
  return pdfOf(doc, () => {
    doc.font('strong').fontSize(18).fillColor(INK).text('How the term went');
    doc.font('plain').fontSize(11).fillColor(FAINT);
    doc.text(`${course.code} ${course.title}, ${dateWords(course.start)} to ${dateWords(course.end)}`);
    doc.text(`As of ${longDayWords(report.at, course.timeZone)}`);
    heading(doc, 'What to change');
    if (report.changes.length === 0) line(doc, 'Too little has happened yet to tell.');
    report.changes.forEach((words, i) => line(doc, `${i + 1}. ${words}`));
    heading(doc, 'The outcome');
    line(
      doc,
      `${report.worried} of ${plural(report.known, 'student')} ${outcome}. No rule found ${report.missedByAll} of them.`,
    );
    heading(doc, 'Rule by rule');
    for (const rule of report.rules) writeRule(doc, rule);
    const compared = report.texts.filter((t) => t.better);
    if (compared.length > 0) {
      heading(doc, 'Texts compared');
      for (const { wording, better } of compared)
        line(
          doc,
          `“${wording}”: text ${better!.better + 1} did better than text ${better!.worse + 1}, by more than chance.`,
        );
    }
  });
}

function writeRule(doc: Doc, r: TermReport['rules'][number]): void {
  const { result, hindsight } = r;
  const { returns, replies } = result;
  if (doc.y > doc.page.height - 160) doc.addPage();
  doc.moveDown(0.4).font('strong').fontSize(11.5).fillColor(INK).text(r.name);
  const words = [
    `${plural(result.sent, 'nudge')} to ${plural(r.reached, 'student')}${r.rounds > 0 ? ` in ${plural(r.rounds, 'check')}` : ''}.`,
    returns ? `${returns.count} of ${returns.of} came back within two weeks.` : '',
    replies.of > 0 ? `${replies.count} of ${replies.of} replied.` : '',
    result.open > 0 ? `${result.open} are too recent to tell.` : '',
    ...r.heldBack.map(
      (h) =>
        `Held back for ${plural(h.students, 'student')}: ${WITHHELD_WORDS[h.reason]}${h.neverNudged > 0 ? ` (${h.neverNudged} never nudged)` : ''}.`,
    ),
    hindsight
      ? `Of the students you worry about, it found ${hindsight.counts.found} of ${hindsight.counts.found + hindsight.counts.missed}. It also found ${hindsight.counts.needless} who did fine.`
      : '',
  ].filter((w) => w !== '');
  doc.font('plain').fontSize(10.5).fillColor(INK).text(words.join(' '), { lineGap: 2 });
}

export function heading(doc: Doc, words: string): void {
  if (doc.y > doc.page.height - 140) doc.addPage();
  doc.moveDown(1);
  const { left, right } = doc.page.margins;
  doc
    .moveTo(left, doc.y)
    .lineTo(doc.page.width - right, doc.y)
    .strokeColor(LINE)
    .stroke();
  doc.moveDown(0.5).font('strong').fontSize(13).fillColor(INK).text(words).moveDown(0.2);
}

export const line = (doc: Doc, words: string): void => {
  doc.font('plain').fontSize(11).fillColor(INK).text(words, { lineGap: 2 }).moveDown(0.3);
};
