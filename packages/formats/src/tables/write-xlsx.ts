import ExcelJS from 'exceljs';
import { GROUNDS, marksOf, SIGNS, type Cell, type OutRow, type OutTable } from './table.js';

/** Excel takes no more in a cell, and no longer names of sheets. */
const MOST_CELL = 32_767;
const INDENT_MOST = 15;

/**
 * A workbook with one sheet, or one for each level.
 *
 * @returns its bytes
 */
export async function writeXlsx(table: OutTable, sheets: 'one' | 'levels' = 'one'): Promise<Uint8Array> {
  const book = new ExcelJS.Workbook();
  if (sheets === 'one') addSheet(book, 'BOM', table, table.rows);
  else {
    const levels = [...new Set(table.rows.map(({ level }) => level))].sort((a, b) => a - b);
    for (const level of levels.length > 0 ? levels : [1])
      addSheet(
        book,
        `Level ${level}`,
        table,
        table.rows.filter((row) => row.level === level),
      );
  }
  return new Uint8Array(await book.xlsx.writeBuffer());
}

function addSheet(book: ExcelJS.Workbook, name: string, table: OutTable, rows: readonly OutRow[]): void {
  const { columns, title, says } = table;
  const marks = marksOf(table);
  const head = 2 + says.length + (marks.length > 0 ? 1 : 0);
  const sheet = book.addWorksheet(name, {
    views: [{ state: 'frozen', ySplit: head }],
    pageSetup: { orientation: 'landscape', fitToPage: true, fitToWidth: 1, fitToHeight: 0, paperSize: 9 },
  });
  sheet.columns = [{ width: 7 }, ...columns.map(({ width }) => ({ width: Math.max(8, width) }))];
  sheet.addRow([title]).font = { bold: true, size: 14 };
  for (const line of says) sheet.addRow([line]).font = { color: { argb: 'FF5A6B73' } };
  if (marks.length > 0) {
    const legend = sheet.addRow(marks.map((mark) => `${SIGNS[mark]} ${mark}`));
    marks.forEach((mark, at) => paint(legend.getCell(at + 1), GROUNDS[mark]));
  }
  const heading = sheet.addRow(['Level', ...columns.map((column) => column.title)]);
  heading.font = { bold: true };
  heading.border = { bottom: { style: 'thin' } };
  for (const row of rows) {
    const added = sheet.addRow([row.level, ...row.cells.map(cellOf)]);
    columns.forEach(({ align, isTree }, at) => {
      const cell = added.getCell(at + 2);
      if (align) cell.alignment = { horizontal: align };
      else if (isTree) cell.alignment = { indent: Math.min(INDENT_MOST, row.level - 1) };
      if (row.mark) paint(cell, GROUNDS[row.mark]);
    });
    if (row.mark) paint(added.getCell(1), GROUNDS[row.mark]);
  }
}

function cellOf(cell: Cell): Cell {
  return typeof cell === 'string' ? cell.slice(0, MOST_CELL) : cell;
}

function paint(cell: ExcelJS.Cell, ground: string): void {
  cell.fill = { type: 'pattern', pattern: 'solid', fgColor: { argb: `FF${ground}` } };
}
