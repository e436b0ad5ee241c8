/** Two terms side by side, as a PDF. */
import type { ComparedTerm, TermsAnswer } from '@zest-bell/core/exchange';
import { rangedShareWords } from '@zest-bell/core/outcomes';
import { chanceWords, firstWeekWords, sentWords, SHARE_WORDS, type ReportedRule } from '@zest-bell/core/terms';
import { dateWords, longDayWords, plural } from '@zest-bell/core/time';
import { newDocument, pdfOf, type Doc } from '../../wording/letters/document.ts';
import { FAINT, heading, INK, line } from './pdf.ts';

export async function comparePdf(answer: TermsAnswer, zone: string): Promise<Buffer> {
  const { here, other, pairs, alone, limits } = answer;
  const title = `Two terms side by side: ${here.code} and ${other.code}`;
  const doc = await newDocument({ page: 'Letter', title, author: 'Zest Bell', at: here.at });
  return pdfOf(doc, () => {
    doc.font('strong').fontSize(18).fillColor(INK).text('Two terms side by side');
    doc
      .font('plain')
      .fontSize(11)
      .fillColor(FAINT)
      .text(`As of ${longDayWords(here.at, zone)}`);
    for (const term of [here, other]) line(doc, termWords(term));
    if (limits.length > 0) {
      heading(doc, 'Limits that differed');
      for (const d of limits) line(doc, `${d.part}: ${d.here} in ${here.code}, ${d.other} in ${other.code}.`);
    }
    heading(doc, 'Rules of both terms');
    if (pairs.length === 0) line(doc, 'No rule of one comes from the other.');
    for (const pair of pairs) {
      if (doc.y > doc.page.height - 200) doc.addPage();
      doc.moveDown(0.4).font('strong').fontSize(11.5).fillColor(INK).text(pair.here.name);
      line(doc, `${here.code}: ${ruleWords(pair.here)}`);
      line(doc, `${other.code}: ${ruleWords(pair.other)}`);
      for (const s of pair.shares)
        line(
          doc,
          `${SHARE_WORDS[s.what]}: ${rangedShareWords(s.here)} and ${rangedShareWords(s.other)}. ${chanceWords(s)}`,
        );
      for (const d of pair.differences) line(doc, `${d.part}: ${d.here} in ${here.code}, ${d.other} in ${other.code}.`);
    }
    writeAlone(doc, `Only in ${here.code}`, alone.here);
    writeAlone(doc, `Only in ${other.code}`, alone.other);
  });
}

const termWords = (t: ComparedTerm): string =>
  `${t.code} ${t.title}, ${dateWords(t.start)} to ${dateWords(t.end)}: ${t.worried} of ${plural(t.known, 'student')} ${t.outcome}.`;

const ruleWords = (r: ReportedRule): string => `${sentWords(r)}, first reached in ${firstWeekWords(r)}.`;

function writeAlone(doc: Doc, title: string, rules: readonly ReportedRule[]): void {
  if (rules.length === 0) return;
  heading(doc, title);
  for (const r of rules) line(doc, `${r.name}: ${ruleWords(r)}`);
}
