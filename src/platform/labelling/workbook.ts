import { unzip } from 'fflate';
import writeXlsx from 'write-excel-file/universal';

/** Bytes that a workbook may unpack to. */
const MOST_BYTES = 300_000_000;
/** Cells that the rectangle around all of them may have, and columns: a reader makes the whole of it before it gives a row. */
const MOST_CELLS = 20_000_000;
const MOST_COLUMNS = 2000;
/** Rows that a workbook can have at all (ECMA-376). */
const MOST_ROWS = 1_048_576;
/** Characters looked at in one go; a reference to a cell is shorter than what they overlap by. */
const GO = 4 << 20;
const OVERLAP = 64;

const opened = (bytes: Uint8Array, filter: (file: { name: string; originalSize: number }) => boolean) =>
  new Promise<Record<string, Uint8Array>>((done, fail) => {
    unzip(bytes, { filter }, (error, files) =>
      error ? fail(new Error('The workbook is damaged or is no XLSX file.')) : done(files),
    );
  });

/** The number of a column that letters name, from 1: `A`, `XFD`. */
const columnOf = (letters: string) => [...letters].reduce((n, c) => n * 26 + c.charCodeAt(0) - 64, 0);

/**
 * Judges a workbook before anything is made of it: an archive that unpacks to far more than a sheet is none, and one cell far out makes a
 * matrix of billions.
 * @throws Error in words for the user
 */
export async function checkWorkbook(bytes: Uint8Array): Promise<void> {
  let total = 0;
  await opened(bytes, ({ originalSize }) => {
    total += originalSize;
    return false;
  });
  if (total > MOST_BYTES) throw new Error('The workbook unpacks to more than 300 MB.');
  const sheets = await opened(bytes, ({ name }) => /^xl\/worksheets\/[^/]+\.xml$/i.test(name));
  for (const [name, xml] of Object.entries(sheets)) {
    const decoder = new TextDecoder();
    let [rows, columns, farthest] = [0, 0, ''];
    for (let at = 0; at < xml.length; at += GO) {
      const text = decoder.decode(xml.subarray(Math.max(0, at - OVERLAP), at + GO));
      // References to cells, the corner of the dimension among them.
      for (const [, letters, digits] of text.matchAll(/["':]\$?([A-Z]{1,3})\$?(\d{1,9})["']/g)) {
        const [column, row] = [columnOf(letters), Number(digits)];
        if (column > columns || row > rows) farthest = letters + digits;
        columns = Math.max(columns, column);
        rows = Math.max(rows, row);
      }
      for (const [, digits] of text.matchAll(/<row[^>]*\sr=["'](\d{1,9})["']/g)) rows = Math.max(rows, Number(digits));
    }
    if (columns > MOST_COLUMNS || rows > MOST_ROWS || rows * columns > MOST_CELLS)
      throw new Error(
        `A cell of ${name.slice(name.lastIndexOf('/') + 1, -4)} stands at ${farthest || `row ${rows}`}, far outside of what a sheet of labels needs. ` +
          'Delete what stands out there, or save the part that you need as CSV.',
      );
  }
}

/** Cells as an XLSX workbook; every one is text, so a spreadsheet runs none of them. */
export function workbookOf(cells: readonly (readonly string[])[], sheet = 'Sounds'): Promise<Blob> {
  const rows = cells.map((row) => row.map((value) => ({ value, type: String })));
  return writeXlsx(rows, { sheet, stickyRowsCount: 1 }).toBlob();
}
