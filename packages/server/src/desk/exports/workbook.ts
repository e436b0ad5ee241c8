/** A table as a workbook (Office Open XML, ECMA-376), written as its rows come: real numbers and dates, texts as texts. */
import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { finished } from 'node:stream/promises';
import { strToU8, Zip, ZipDeflate } from 'fflate';
import type { Progress } from './jobs.ts';
import { headingsOf, type CellKind, type ExportCell, type ExportColumn } from '@zest-bell/core/exports';
import { DAY, zoneOf } from '@zest-bell/core/time';

/** As much as a cell holds, and a sheet. */
const LONGEST = 32_767;
const MOST_ROWS = 1_048_575;
/** January 1, 1970 in the days that a workbook counts (ECMA-376 part 1, 18.17.4.1). */
const EPOCH = 25_569;

/** Of a column, in characters: as wide as its heading asks, and a text has room for a line. */
function widthOf(heading: string, kind: CellKind): number {
  const least = kind === 'text' ? 18 : 10;
  return Math.min(44, Math.max(least, heading.length + 3));
}

/** Places in `cellXfs` of the styles. */
const STYLE = { plain: 0, bold: 1, dateTime: 2 } as const;

export async function writeWorkbook(
  to: Progress,
  table: { readonly name: string; readonly zone: string; readonly columns: readonly ExportColumn[] },
  batches: AsyncIterable<readonly (readonly ExportCell[])[]>,
): Promise<void> {
  const zone = zoneOf(table.zone);
  const file = createWriteStream(to.path);
  const closed = finished(file);
  // Where the table fails first, the file is closed without anybody waiting for it.
  closed.catch(() => undefined);
  try {
    const zip = new Zip((error, bytes, isLast) => {
      if (error) file.destroy(error);
      else if (isLast) file.end(bytes);
      else file.write(bytes);
    });
    const part = (name: string): ZipDeflate => {
      const made = new ZipDeflate(name);
      zip.add(made);
      return made;
    };
    for (const [name, xml] of Object.entries(partsAround(table.name))) part(name).push(strToU8(XML + xml), true);
    const sheet = part('xl/worksheets/sheet1.xml');
    const headings = headingsOf(table);
    const widths = headings.map((heading, i) => widthOf(heading, table.columns[i]!.kind));
    sheet.push(
      strToU8(
        XML +
          sheetStart(widths) +
          rowOf(
            1,
            headings.map((heading) => textCell(heading, STYLE.bold)),
          ),
      ),
    );
    const cellOf = (cell: ExportCell, kind: CellKind): string => {
      if (cell === null) return '';
      if (typeof cell === 'string') return textCell(cell.slice(0, LONGEST), STYLE.plain);
      // A workbook knows no zones: it gets the wall clock, as if that were UTC.
      if (kind === 'dateTime') return numberCell(zone.toWall(cell) / DAY + EPOCH, STYLE.dateTime);
      return numberCell(cell, STYLE.plain);
    };
    let rows = 0;
    for await (const batch of batches) {
      to.signal.throwIfAborted();
      const fitting = batch.slice(0, MOST_ROWS - rows);
      const first = rows + 2;
      rows += fitting.length;
      const xml = fitting.map((cells, n) =>
        rowOf(
          first + n,
          cells.map((cell, i) => cellOf(cell, table.columns[i]!.kind)),
        ),
      );
      sheet.push(strToU8(xml.join('')));
      if (file.writableNeedDrain) await Promise.race([once(file, 'drain'), closed]);
      to.done(batch.length);
    }
    sheet.push(strToU8('</sheetData></worksheet>'), true);
    zip.end();
    await closed;
  } catch (error) {
    file.destroy();
    throw error;
  }
}

const XML = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';
const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const RELATIONS = 'http://schemas.openxmlformats.org/package/2006/relationships';
const DOCUMENT = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const TYPE = 'application/vnd.openxmlformats-officedocument.spreadsheetml';

/** What XML 1.0 cannot hold, and halves of pairs. */
// eslint-disable-next-line no-control-regex
const UNWRITABLE = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|\p{Surrogate}/gu;
const ENTITIES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escaped = (text: string): string => text.replace(UNWRITABLE, '').replace(/[&<>"]/g, (sign) => ENTITIES[sign]!);

/** A cell but for its place. */
const textCell = (text: string, style: number): string =>
  `t="inlineStr" s="${style}"><is><t xml:space="preserve">${escaped(text)}</t></is>`;
const numberCell = (value: number, style: number): string => `s="${style}"><v>${value}</v>`;

/** `cells`: each but for its place; blank for none. */
const rowOf = (row: number, cells: readonly string[]): string =>
  `<row r="${row}">${cells.map((cell, i) => (cell === '' ? '' : `<c r="${lettersOf(i)}${row}" ${cell}</c>`)).join('')}</row>`;

/** The letters of a column: A to Z, then AA. */
const lettersOf = (column: number): string =>
  (column >= 26 ? lettersOf(Math.floor(column / 26) - 1) : '') + String.fromCharCode(65 + (column % 26));

/** The heading stays in view. */
const sheetStart = (widths: readonly number[]): string =>
  `<worksheet xmlns="${MAIN}"><sheetViews><sheetView workbookViewId="0">` +
  '<pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/></sheetView></sheetViews><cols>' +
  widths.map((width, i) => `<col min="${i + 1}" max="${i + 1}" width="${width}" customWidth="1"/>`).join('') +
  '</cols><sheetData>';

/** All parts but the sheet itself. */
function partsAround(name: string): Readonly<Record<string, string>> {
  const sheet = escaped(name.replace(/[[\]:*?/\\]/g, '-').slice(0, 31));
  const override = (part: string, type: string) => `<Override PartName="${part}" ContentType="${TYPE}.${type}+xml"/>`;
  const relation = (id: string, what: string, target: string) =>
    `<Relationship Id="${id}" Type="${DOCUMENT}/${what}" Target="${target}"/>`;
  return {
    '[Content_Types].xml':
      '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">' +
      '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>' +
      '<Default Extension="xml" ContentType="application/xml"/>' +
      override('/xl/workbook.xml', 'sheet.main') +
      override('/xl/worksheets/sheet1.xml', 'worksheet') +
      override('/xl/styles.xml', 'styles') +
      '</Types>',
    '_rels/.rels': `<Relationships xmlns="${RELATIONS}">${relation('r1', 'officeDocument', 'xl/workbook.xml')}</Relationships>`,
    'xl/workbook.xml':
      `<workbook xmlns="${MAIN}" xmlns:r="${DOCUMENT}"><sheets>` +
      `<sheet name="${sheet}" sheetId="1" r:id="r1"/></sheets></workbook>`,
    'xl/_rels/workbook.xml.rels':
      `<Relationships xmlns="${RELATIONS}">` +
      relation('r1', 'worksheet', 'worksheets/sheet1.xml') +
      relation('r2', 'styles', 'styles.xml') +
      '</Relationships>',
    'xl/styles.xml':
      `<styleSheet xmlns="${MAIN}"><numFmts count="1"><numFmt numFmtId="164" formatCode="yyyy-mm-dd hh:mm:ss"/></numFmts>` +
      '<fonts count="2"><font><sz val="11"/><name val="Calibri"/></font><font><b/><sz val="11"/><name val="Calibri"/></font></fonts>' +
      '<fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills>' +
      '<borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders>' +
      '<cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs>' +
      '<cellXfs count="3"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/>' +
      '<xf numFmtId="0" fontId="1" fillId="0" borderId="0" xfId="0" applyFont="1"/>' +
      '<xf numFmtId="164" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/></cellXfs></styleSheet>',
  };
}
