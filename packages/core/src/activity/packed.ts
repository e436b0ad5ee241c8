/** Packs a few typed arrays and a JSON header into one block of bytes that can be read in place. */

type PackedColumn = Float64Array | Int32Array | Uint8Array;
const KINDS = { f8: Float64Array, i4: Int32Array, u1: Uint8Array } as const;
type PackedKind = keyof typeof KINDS;

const MAGIC = 0x5a425333;
const BOUNDARY = 8;
const padded = (bytes: number): number => Math.ceil(bytes / BOUNDARY) * BOUNDARY;

interface Header {
  readonly about: unknown;
  readonly columns: readonly { readonly kind: PackedKind; readonly length: number }[];
}

const kindOf = (column: PackedColumn): PackedKind =>
  column instanceof Float64Array ? 'f8' : column instanceof Int32Array ? 'i4' : 'u1';

/** `about` is kept as JSON. */
export function pack(about: unknown, columns: readonly PackedColumn[]): Uint8Array<ArrayBuffer> {
  const header: Header = { about, columns: columns.map((c) => ({ kind: kindOf(c), length: c.length })) };
  const text = new TextEncoder().encode(JSON.stringify(header));
  const size = columns.reduce((sum, c) => sum + padded(c.byteLength), BOUNDARY + padded(text.length));
  const bytes = new Uint8Array(size);
  new Uint32Array(bytes.buffer, 0, 2).set([MAGIC, text.length]);
  bytes.set(text, BOUNDARY);
  let at = BOUNDARY + padded(text.length);
  for (const column of columns) {
    bytes.set(new Uint8Array(column.buffer, column.byteOffset, column.byteLength), at);
    at += padded(column.byteLength);
  }
  return bytes;
}

/** Null for bytes that are no such block. The columns lie in the bytes given, or in a copy where those begin oddly. */
export function unpack(
  packed: Uint8Array,
): { readonly about: unknown; readonly columns: readonly PackedColumn[] } | null {
  const bytes = packed.byteOffset % BOUNDARY === 0 ? packed : packed.slice();
  if (bytes.length < BOUNDARY) return null;
  const [magic, length] = new Uint32Array(bytes.buffer, bytes.byteOffset, 2);
  if (magic !== MAGIC || length === undefined || BOUNDARY + padded(length) > bytes.length) return null;
  let header: Header;
  try {
    header = JSON.parse(new TextDecoder().decode(bytes.subarray(BOUNDARY, BOUNDARY + length))) as Header;
  } catch {
    return null;
  }
  let at = BOUNDARY + padded(length);
  const columns: PackedColumn[] = [];
  for (const { kind, length: n } of header.columns) {
    const Typed = KINDS[kind];
    if (!Typed || at + padded(n * Typed.BYTES_PER_ELEMENT) > bytes.length) return null;
    columns.push(new Typed(bytes.buffer as ArrayBuffer, bytes.byteOffset + at, n));
    at += padded(n * Typed.BYTES_PER_ELEMENT);
  }
  return at === bytes.length ? { about: header.about, columns } : null;
}
