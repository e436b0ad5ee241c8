/** A PDF document with the application’s own faces. */
import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import type PDFDocument from 'pdfkit';
import type { Instant } from '@zest-bell/core/time';
import type { LetterPage } from '@zest-bell/core/wording';

export type Doc = InstanceType<typeof PDFDocument>;

const require = createRequire(import.meta.url);
const FOLDER = '@expo-google-fonts/atkinson-hyperlegible-next';
const fontFile = (name: string): Buffer =>
  readFileSync(require.resolve(`${FOLDER}/${name}/AtkinsonHyperlegibleNext_${name}.ttf`));

const FACES = { plain: '400Regular', strong: '700Bold', em: '400Regular_Italic', both: '700Bold_Italic' } as const;
export type Face = keyof typeof FACES;
let fonts: Record<Face, Buffer> | null = null;
const faces = (): Record<Face, Buffer> =>
  (fonts ??= {
    plain: fontFile(FACES.plain),
    strong: fontFile(FACES.strong),
    em: fontFile(FACES.em),
    both: fontFile(FACES.both),
  });

/** Points: 1/72 of an inch. */
export const MARGIN = 72;

export async function newDocument(of: {
  readonly page: LetterPage;
  readonly title: string;
  readonly author: string;
  readonly at: Instant;
}): Promise<Doc> {
  const at = new Date(of.at);
  // With the first one: most starts draw none.
  const { default: Document } = await import('pdfkit');
  const doc = new Document({
    size: of.page === 'A4' ? 'A4' : 'LETTER',
    margin: MARGIN,
    lang: 'en',
    displayTitle: true,
    info: { Title: of.title, Author: of.author, CreationDate: at, ModDate: at },
  });
  for (const [face, bytes] of Object.entries(faces())) doc.registerFont(face, bytes);
  return doc;
}

/** What `write` writes, as bytes. */
export async function pdfOf(doc: Doc, write: () => void | Promise<void>): Promise<Buffer> {
  const chunks: Buffer[] = [];
  doc.on('data', (chunk: Buffer) => chunks.push(chunk));
  const done = new Promise<void>((resolve, reject) => {
    doc.on('end', resolve);
    doc.on('error', reject);
  });
  await write();
  doc.end();
  await done;
  return Buffer.concat(chunks);
}
