/** A message as a PDF: one student's letter, from the same blocks as the mail. */
import { longDayWords, type Instant } from '@zest-bell/core/time';
import type { Block, LetterPage, MarkupLine, Message } from '@zest-bell/core/wording';
import { MARGIN, newDocument, pdfOf, type Doc, type Face } from './document.ts';

export interface LetterContents {
  readonly message: Pick<Message, 'subject' | 'blocks'>;
  readonly page: LetterPage;
  readonly from: string;
  readonly to: string;
  /** "NAV 120 Coastal Navigation". */
  readonly course: string;
  readonly at: Instant;
  readonly timeZone: string;
  /** The bytes of a picture in it; null for one that is not there. */
  readonly picture: (file: string) => Promise<Buffer | null>;
}

const SIZE = 11;
const INK = '#14211d';
const FAINT = '#4b5a54';
const LINK = '#0f4a3c';

export async function makeLetter(order: LetterContents): Promise<Buffer> {
  const { subject: title, blocks } = order.message;
  const doc = await newDocument({ page: order.page, title, author: order.from, at: order.at });
  return pdfOf(doc, async () => {
    doc.font('plain').fontSize(9.5).fillColor(FAINT);
    doc.text(order.from).text(order.course).text(longDayWords(order.at, order.timeZone));
    doc.moveDown(1.5).fontSize(SIZE).fillColor(INK).text(order.to);
    doc.moveDown(1.2).font('strong').fontSize(13).text(title).moveDown(0.8);
    doc.fontSize(SIZE);
    for (const block of blocks) await writeBlock(doc, block, order);
  });
}

async function writeBlock(doc: Doc, block: Block, order: LetterContents): Promise<void> {
  const left = doc.page.margins.left;
  if (block.kind === 'paragraph') {
    for (const line of block.lines) await writeLine(doc, line, order);
  } else {
    for (const item of block.items) {
      doc.font('plain').fillColor(INK).text('•', left, doc.y, { lineBreak: false });
      doc.x = left + 14;
      await writeLine(doc, item, order);
      doc.x = left;
    }
  }
  doc.moveDown(0.7);
}

async function writeLine(doc: Doc, line: MarkupLine, order: LetterContents): Promise<void> {
  const words = line.filter((piece) => piece.kind !== 'picture');
  words.forEach((piece, i) => {
    const face: Face =
      piece.kind === 'link' ? 'plain' : piece.strong ? (piece.em ? 'both' : 'strong') : piece.em ? 'em' : 'plain';
    const link = piece.kind === 'link' ? piece.url : null;
    doc.font(face).fillColor(link ? LINK : INK);
    doc.text(piece.text, { continued: i < words.length - 1, lineGap: 2.5, link, underline: link !== null });
  });
  for (const piece of line) {
    if (piece.kind !== 'picture') continue;
    const bytes = await order.picture(piece.file);
    if (bytes === null || !isDrawable(bytes) || !drawn(doc, bytes)) doc.font('em').fillColor(FAINT).text(piece.alt);
  }
}

/** False for a picture with unreadable data. */
function drawn(doc: Doc, bytes: Buffer): boolean {
  try {
    doc.image(bytes, { fit: [doc.page.width - 2 * MARGIN, 300] });
    return true;
  } catch {
    return false;
  }
}

/** PNG and JPEG can be drawn; of another picture its words stand there. */
const isDrawable = (b: Buffer): boolean => b[0] === 0x89 || b[0] === 0xff;
