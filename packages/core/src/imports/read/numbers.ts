/** Numbers as people write them ([F8]): whether a comma is a decimal sign is proven by the cells of its column, or by the file. */
import { RefusedRow } from './refused.ts';

export type DecimalSign = 'comma' | 'point';
/** How a cell writes its number: by a decimal sign, as a workbook stores it, or as nothing has proven. */
export type NumberStyle = DecimalSign | 'workbook' | null;

/** Longer texts are no numbers. */
const LONGEST = 64;
const MOST_POINTS = 1e9;

/** Blanks and apostrophes that part groups of three digits. */
const isGroupMark = (c: string): boolean => /[\s\u00a0\u2007\u2009\u202f'’]/.test(c);

/** A number's sign and its digits with points and commas, marks between groups taken out; null for anything else. */
function digitsOf(text: string): { readonly negative: boolean; readonly digits: string } | null {
  if (text.length > LONGEST) return null;
  const sign = /^[+\-−–]/.test(text);
  const body = sign ? text.slice(1) : text;
  let digits = '';
  for (let i = 0; i < body.length; i++) {
    const c = body[i]!;
    if ((c >= '0' && c <= '9') || c === '.' || c === ',') digits += c;
    else if (!(isGroupMark(c) && isBetweenGroups(body, i))) return null;
  }
  return /\d/.test(digits) ? { negative: sign && text[0] !== '+', digits } : null;
}

const isDigit = (c: string | undefined): boolean => c !== undefined && c >= '0' && c <= '9';

/** A digit before, and exactly three digits after. */
const isBetweenGroups = (text: string, at: number): boolean =>
  isDigit(text[at - 1]) && [1, 2, 3].every((n) => isDigit(text[at + n])) && !isDigit(text[at + 4]);

const count = (text: string, mark: string): number => text.split(mark).length - 1;

/** What a cell proves about its decimal sign; `both` cannot be. */
function proofOf(digits: string): DecimalSign | null {
  const commas = count(digits, ',');
  if (commas === 1) {
    const at = digits.indexOf(',');
    const after = digits.slice(at + 1);
    if (/^\d+$/.test(after) && after.length !== 3) return 'comma';
  }
  if (commas >= 2) return 'point';
  const point = digits.lastIndexOf('.');
  // Several points and no comma are a date or a version.
  return point >= 0 && digits.indexOf(',', point) < 0 && count(digits, '.') === 1 ? 'point' : null;
}

const isNumber = (text: string): boolean => readNumber(text, 'point') !== null;

/** A score without words for points, and a fraction with its sign: “7 out of 8 pts” is “7/8” ([F23]). Other texts as they are. */
export function plainScore(cell: string): string {
  if (cell.length > LONGEST || !/\d/.test(cell)) return cell;
  const bare = cell.replace(/\s*(?:points?|pts?|marks?)\.?$/i, '');
  const [, part, whole] = /^(\S.*?)\s+(?:out )?of (\S.*)$/i.exec(bare) ?? [];
  if (part !== undefined) return isNumber(part) && isNumber(whole!) ? `${part}/${whole!}` : cell;
  const score = bare.endsWith('%') ? bare.slice(0, -1).trimEnd() : bare;
  return score.split('/').every((text) => isNumber(text.trim())) ? bare : cell;
}

/** The parts of a cell that are numbers: of a percent and of a fraction too. */
function numbersIn(cell: string): string[] {
  if (cell.length > LONGEST || !/\d/.test(cell)) return [];
  const score = plainScore(cell);
  const plain = score.endsWith('%') ? score.slice(0, -1).trimEnd() : score;
  const slash = plain.indexOf('/');
  return slash < 0 ? [plain] : [plain.slice(0, slash).trim(), plain.slice(slash + 1).trim()];
}

/** What the texts of a column have shown so far about its decimal sign. */
export class DecimalProof {
  private comma = false;
  private point = false;

  see(cell: string): void {
    if (this.point) return;
    for (const text of numbersIn(cell)) {
      const number = digitsOf(text);
      const proof = number && proofOf(number.digits);
      if (proof === 'comma') this.comma = true;
      else if (proof === 'point') this.point = true;
    }
  }

  get sign(): DecimalSign | null {
    return this.point ? 'point' : this.comma ? 'comma' : null;
  }
}

/** What all columns that prove something prove alike; null where they prove nothing, or not the same. */
export function decimalOfFile(columns: readonly (DecimalSign | null)[]): DecimalSign | null {
  const proven = new Set(columns.filter((sign) => sign !== null));
  return proven.size === 1 ? [...proven][0]! : null;
}

const GROUPED = { comma: /^\d{1,3}(?:\.\d{3})*$/, point: /^\d{1,3}(?:,\d{3})*$/ } as const;

/** With one decimal sign; NaN where the text does not fit it. */
function valueWith(digits: string, sign: DecimalSign): number {
  const decimal = sign === 'comma' ? ',' : '.';
  const at = digits.indexOf(decimal);
  const [whole, rest] = at < 0 ? [digits, ''] : [digits.slice(0, at), digits.slice(at + 1)];
  if (at >= 0 && rest !== '' && !/^\d+$/.test(rest)) return NaN;
  if (at >= 0 && whole === '' && rest === '') return NaN;
  if (whole !== '' && !/^\d+$/.test(whole) && !GROUPED[sign].test(whole)) return NaN;
  return Number(`${whole.replace(/\D/g, '') || '0'}.${rest || '0'}`);
}

/** A number where the cell is one; null for anything else. `ambiguous`: it fits only the other decimal sign. */
export function readNumber(text: string, style: NumberStyle): number | 'ambiguous' | null {
  if (style === 'workbook') return Number.isFinite(Number(text)) && text !== '' ? Number(text) : null;
  const number = digitsOf(text);
  if (!number) return null;
  const own = style ?? 'point';
  const value = valueWith(number.digits, own);
  if (!Number.isNaN(value)) return number.negative ? -value : value;
  return Number.isNaN(valueWith(number.digits, own === 'comma' ? 'point' : 'comma')) ? null : 'ambiguous';
}

/** The number of a cell, or its refusal. */
export function numberOf(text: string, column: string | null, style: NumberStyle = null): number {
  const n = readNumber(text, style);
  if (n === 'ambiguous') {
    const other = style === 'comma' ? 'commas' : 'points';
    throw new RefusedRow(
      column,
      'ambiguousNumber',
      `“${text}” could be two numbers, as this column writes decimals with ${other}`,
    );
  }
  if (n === null) throw new RefusedRow(column, 'number', `“${text}” is no number`);
  if (Math.abs(n) > MOST_POINTS) throw new RefusedRow(column, 'tooLarge', `“${text}” is more than a billion`);
  return n;
}
