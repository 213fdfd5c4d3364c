import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import type { AmountView, BillRow, FileAnswer } from '@stem-trace/contract';
import { grossAmount, sayAmount } from '@stem-trace/core';
import {
  writeBomXml,
  writeCsv,
  writeCycloneDx,
  writePdf,
  writeXlsx,
  type Cell,
  type OutBom,
  type OutColumn,
  type OutLine,
  type OutTable,
} from '@stem-trace/formats';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { AlternatesService } from './alternates.service.js';
import { BomTreeService, type StoreLine } from './bom-tree.service.js';
import { amountView, BillService, type BillRequest } from './bill.service.js';

export interface BillFileRequest extends Omit<BillRequest, 'columns'> {
  readonly format: 'csv' | 'xlsx' | 'pdf' | 'cyclonedx' | 'xml';
  /** Keys of columns, and `property:NAME`. */
  readonly columns: readonly string[];
  readonly sheets: 'one' | 'levels';
}

const PROPERTY = 'property:';

interface KnownColumn extends OutColumn {
  readonly cell: (row: BillRow) => Cell;
}

const COLUMNS: Readonly<Record<string, KnownColumn>> = {
  find: { title: 'Find', width: 7, cell: ({ find }) => (/^\d{1,9}$/.test(find) ? Number(find) : find) },
  number: { title: 'Number', width: 24, isTree: true, cell: ({ number }) => number },
  name: { title: 'Name', width: 30, cell: ({ name }) => name },
  amount: { title: 'Quantity', width: 10, align: 'right', cell: ({ amount }) => numberOr(amount) },
  unit: { title: 'Unit', width: 7, cell: ({ amount }) => amount.unit },
  counted: { title: 'Counted', width: 12, cell: ({ amount }) => countedBy(amount) },
  total: { title: 'Total', width: 10, align: 'right', cell: ({ total }) => sumOf(total) },
  gross: { title: 'Total with scrap', width: 12, align: 'right', cell: ({ total }) => sumOf(grossOf(total)) },
  designators: { title: 'Designators', width: 20, cell: ({ designators }) => designators },
  version: { title: 'Version', width: 9, cell: ({ version, isGap }) => (isGap ? 'gap' : version) },
  state: { title: 'State', width: 10, cell: ({ state }) => state ?? '' },
  kind: { title: 'Kind', width: 10, cell: ({ kind }) => kind ?? '' },
  source: { title: 'Made or bought', width: 10, cell: ({ source }) => source },
  configurations: { title: 'Only in', width: 14, cell: ({ configurations }) => configurations },
  planned: { title: 'Planned', width: 20, cell: ({ planned }) => planned },
  actual: { title: 'Actual', width: 20, cell: ({ actual }) => actual },
  from: { title: 'Used in', width: 26, cell: ({ from }) => from.map(({ number, said }) => `${number} ×${said}`).join(', ') }, // prettier-ignore
  alternates: { title: 'Alternates', width: 18, cell: ({ alternates }) => alternates.map(({ number }) => number).join(', ') }, // prettier-ignore
  held: { title: 'Held by', width: 14, cell: ({ heldBy }) => heldBy?.name ?? '' },
};

/** Digits that a double keeps; longer decimals stay texts, so that none is changed. */
const EXACT_DIGITS = 15;

/** What is not needed is no number either, so that nobody adds it up. */
function numberOr({ value, role, said }: BillRow['amount']): Cell {
  const isNumber = value !== '' && role === undefined && value.replace(/\D/g, '').length <= EXACT_DIGITS;
  return isNumber ? Number(value) : said;
}

/** What a quantity says besides its number and unit: `per batch`, `each + 5 %`. */
function countedBy(amount: BillRow['amount']): string {
  if (amount.role !== undefined || amount.basis === 'as required') return '';
  const said = sayAmount({ ...amount, value: '', unit: '' });
  // What begins with a sign would be a formula.
  return said.startsWith('+') ? `each ${said}` : said;
}

/** Says what numbers leave out, beside them, where a row has anything of the kind. */
function withCounted(keys: readonly string[], rows: readonly BillRow[]): readonly string[] {
  const at = keys.includes('unit') ? keys.indexOf('unit') : keys.indexOf('amount');
  const isNeeded = !keys.includes('counted') && rows.some(({ amount }) => countedBy(amount) !== '');
  return at >= 0 && isNeeded ? keys.toSpliced(at + 1, 0, 'counted') : keys;
}

/** A number where there is one sum. */
function sumOf(amounts: readonly AmountView[]): Cell {
  const [first, second] = amounts;
  return first && !second ? numberOr(first) : amounts.map(({ said }) => said).join(' and ');
}

/** With what is lost, up to whole bars, reels or packs. */
function grossOf(amounts: readonly AmountView[]): AmountView[] {
  return amounts.map((amount) => amountView(grossAmount(amount)));
}

/** The BOM of an item as a file. */
@Injectable()
export class BillFileService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly trees: BomTreeService,
    private readonly rights: RightsService,
    private readonly alternates: AlternatesService,
    private readonly bills: BillService,
  ) {}

  /** @throws ProblemError as `BillService.bill` does */
  async file(request: BillFileRequest, person: Person): Promise<FileAnswer> {
    const { format } = request;
    if (format === 'xml' || format === 'cyclonedx') {
      const bom = await this.tree(request, person);
      const name = `${bom.number} ${bom.version}`.replace('/', '-');
      return format === 'xml'
        ? answer(`${name}.xml`, 'application/xml', writeBomXml(bom))
        : answer(`${name}.cdx.json`, 'application/vnd.cyclonedx+json', writeCycloneDx(bom, randomUUID()));
    }
    const table = await this.table(request, person);
    const name = table.title.replace(/^BOM of /, '').replace('/', '-');
    switch (format) {
      case 'csv':
        return answer(`${name}.csv`, 'text/csv; charset=utf-8', writeCsv(table));
      case 'xlsx':
        return answer(`${name}.xlsx`, XLSX, await writeXlsx(table, request.sheets));
      case 'pdf':
        return answer(
          `${name}.pdf`,
          'application/pdf',
          await writePdf(table, new Date().toISOString().slice(0, 10)),
        );
    }
  }

  private async table(request: BillFileRequest, person: Person): Promise<OutTable> {
    const chosen = request.columns.length > 0 ? request.columns : ['find', 'number', 'name', 'amount', 'unit', 'total', 'designators', 'version']; // prettier-ignore
    const properties = chosen.flatMap((key) =>
      key.startsWith(PROPERTY) ? [key.slice(PROPERTY.length)] : [],
    );
    const bill = await this.bills.bill({ ...request, columns: properties }, person);
    const keys = withCounted(chosen, bill.rows);
    const columns = keys.flatMap((key): KnownColumn[] => {
      const name = key.slice(PROPERTY.length);
      if (key.startsWith(PROPERTY))
        return [{ title: name, width: 14, cell: ({ values }) => values[name] ?? '' }];
      const known = Object.hasOwn(COLUMNS, key) ? COLUMNS[key] : undefined;
      return known ? [known] : [];
    });
    const { number, version, name } = bill.item;
    return {
      title: `BOM of ${number} ${version}`,
      says: [`${name}, ${bill.isFlat ? 'parts only' : 'level by level'}, ${sayLens(bill.lens)}`],
      columns,
      rows: bill.rows.map((row) => ({ level: row.level, cells: columns.map(({ cell }) => cell(row)) })),
    };
  }

  private async tree({ item, lens, columns }: BillFileRequest, person: Person): Promise<OutBom> {
    const root = await this.catalogue.resolveUnder(item, lens, { person });
    const rights = await this.rights.of(person);
    const properties = columns.flatMap((key) =>
      key.startsWith(PROPERTY) ? [key.slice(PROPERTY.length)] : [],
    );
    const tree = await this.trees.tree(root, { lens, rights, columns: properties });
    const others = await this.othersOf(tree, rights);
    return { ...outLine(tree, others), writtenAt: new Date().toISOString(), lens: sayLens(lens) };
  }

  private othersOf(tree: StoreLine, rights: Rights): ReturnType<AlternatesService['ofRows']> {
    const items: string[] = [];
    const stack = [tree];
    for (let line = stack.pop(); line; line = stack.pop()) {
      if (line.itemId !== undefined) items.push(line.itemId);
      stack.push(...line.children);
    }
    return this.alternates.ofRows(items, rights);
  }
}

const XLSX = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';

function answer(name: string, media: string, content: string | Uint8Array): FileAnswer {
  return { name, media, base64: Buffer.from(content).toString('base64') };
}

export function sayLens(lens: string): string {
  if (lens === 'recorded') return 'as recorded';
  return /^\d/.test(lens) ? `on ${lens}` : lens.replace(/^effective (?=\d{4}-)/, 'effective on ');
}

function outLine(line: StoreLine, others: Awaited<ReturnType<AlternatesService['ofRows']>>): OutLine {
  const { number, name, version, amount, find, designators, configurations, values } = line;
  return {
    ...{ number, name, version, amount, find, designators, configurations, values },
    alternates: (others.get(line.itemId ?? '') ?? []).map((other) => ({
      number: other.number,
      name: other.name,
      rank: other.rank,
    })),
    children: line.children.map((child) => outLine(child, others)),
  };
}
