/** Opening a file of unknown origin: an archive is inflated within bounds, or refused before it could fill the memory. */
import { fromBuffer, type Entry, type ZipFile } from 'yauzl';
import {
  isArchive,
  readWorkbook,
  UnreadableFile,
  WORKBOOK_PART,
  type Bytes,
  type FileInput,
} from '@zest-bell/core/imports';
import { inTurns } from '../../platform/turns/inTurns.ts';

const MOST_ENTRIES = 2000;
/** Inflated bytes of one part, and of all together. */
const LARGEST_PART = 100 << 20;
const LARGEST = 150 << 20;
/** Parts that are read; pictures and whatever else is in an archive are not. */
const READ = /\.(csv|xml|rels)$/i;

/** Of an archive as it comes, in bytes. */
const LARGEST_ARCHIVE = 100 << 20;

/** The file with its content, opened where it is an archive. Throws `UnreadableFile`. */
export async function openFile(name: string, bytes: Bytes): Promise<FileInput> {
  if (!isArchive(bytes.read(0, 4))) return { name, content: { bytes } };
  if (bytes.size > LARGEST_ARCHIVE)
    throw new UnreadableFile('A workbook or an archive has at most 100 MB. Save it as CSV, or split it.');
  try {
    const parts = await partsOf(Buffer.from(bytes.read(0, bytes.size)));
    if (!parts.has(WORKBOOK_PART)) return { name, content: { parts } };
    return { name, content: { sheets: await inTurns(() => readWorkbook(parts)) } };
  } catch (error) {
    if (error instanceof UnreadableFile) throw error;
    throw new UnreadableFile(`This archive cannot be opened (${(error as Error).message}). Export it again.`);
  }
}

async function partsOf(bytes: Buffer): Promise<Map<string, Uint8Array>> {
  const zip = await opened(bytes);
  if (zip.entryCount > MOST_ENTRIES) throw new UnreadableFile('This archive has too many files in it.');
  const parts = new Map<string, Uint8Array>();
  let total = 0;
  for (;;) {
    const entry = await nextEntry(zip);
    if (!entry) return parts;
    const { fileName, uncompressedSize } = entry;
    if (fileName.includes('\0') || fileName.split('/').includes('..'))
      throw new UnreadableFile('A file in this archive has a name that points out of it.');
    if (/\.(zip|xlsx)$/i.test(fileName))
      throw new UnreadableFile('This archive has an archive in it. Unpack it first.');
    if (uncompressedSize > LARGEST_PART || (total += uncompressedSize) > LARGEST)
      throw new UnreadableFile('This archive is too large once it is unpacked.');
    if (parts.has(fileName)) throw new UnreadableFile(`This archive has “${fileName}” twice.`);
    if (READ.test(fileName)) parts.set(fileName, await inflated(zip, entry));
  }
}

/** The library holds each part to the size that the directory says: one that lies is refused as well. */
const opened = (bytes: Buffer): Promise<ZipFile> =>
  new Promise((resolve, reject) => {
    fromBuffer(bytes, { lazyEntries: true, strictFileNames: true }, (error, zip) =>
      error ? reject(error) : resolve(zip),
    );
  });

const nextEntry = (zip: ZipFile): Promise<Entry | null> =>
  new Promise((resolve, reject) => {
    const settle = (done: () => void) => {
      for (const name of ['entry', 'end', 'error']) zip.removeAllListeners(name);
      done();
    };
    zip.once('entry', (entry: Entry) => settle(() => resolve(entry)));
    zip.once('end', () => settle(() => resolve(null)));
    zip.once('error', (error: Error) => settle(() => reject(error)));
    zip.readEntry();
  });

const inflated = (zip: ZipFile, entry: Entry): Promise<Buffer> =>
  new Promise((resolve, reject) => {
    zip.openReadStream(entry, (error, stream) => {
      if (error) return reject(error);
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.on('error', reject);
      stream.on('end', () => resolve(Buffer.concat(chunks)));
    });
  });
