import type { DescribedVersion } from '../store/catalogue.service.js';
import { billTree, sayAmount, type BuildBill, type BomLine } from '@stem-trace/core';
import {
  fillTemplate,
  standardTemplate,
  writeBomXml,
  type Filled,
  type OutLine,
  type TemplateData,
} from '@stem-trace/formats';

/** What a release is said to be. */
export interface ReleaseFacts {
  readonly by: string;
  readonly at: Date;
  readonly notes: string;
}

type Named = Pick<DescribedVersion, 'number' | 'name' | 'label'>;

/** Digits that a double keeps; longer decimals stay texts, so that none is changed. */
const EXACT_DIGITS = 15;

const FIELDS = ['level', 'find', 'number', 'name', 'quantity', 'unit', 'designators', 'version'];

/** What templates can say of a bill. */
function templateData(bill: BuildBill, { number, name, label }: Named, release: ReleaseFacts): TemplateData {
  return {
    header: {
      ...{ 'bill.number': number, 'bill.name': name, 'bill.version': label },
      ...{ 'engineering.number': bill.engineering.number, 'engineering.version': bill.engineering.version },
      ...{ 'release.by': release.by, 'release.at': release.at.toISOString().slice(0, 10) },
      ...{ 'release.notes': release.notes, 'rows.count': bill.rows.length },
    },
    fields: [...FIELDS, ...bill.columns.map((column) => `column ${column.name}`)],
    rows: bill.rows.map((row) => ({
      ...{ level: row.level, find: row.find, number: row.number, name: row.name, version: row.version },
      ...{ quantity: quantityOf(row.amount), unit: row.amount.unit, designators: row.designators },
      ...Object.fromEntries(
        bill.columns.map((column) => [`column ${column.name}`, row.values[column.id] ?? '']),
      ),
    })),
  };
}

function quantityOf(amount: BuildBill['rows'][number]['amount']): Filled {
  const isExact = amount.value !== '' && amount.value.replace(/\D/g, '').length <= EXACT_DIGITS;
  return isExact ? Number(amount.value) : sayAmount(amount);
}

/** @param template bytes of a workbook; the one that ships where absent. @throws FormatError for a wrong template */
export async function billWorkbook(
  bill: BuildBill,
  item: Named,
  release: ReleaseFacts,
  template?: Uint8Array,
): Promise<Uint8Array> {
  return fillTemplate(
    template ?? (await standardTemplate(bill.columns.map(({ name }) => name))),
    templateData(bill, item, release),
  );
}

/** The bill for planning, by our schema. */
export function billXml(bill: BuildBill, { number, name, label }: Named, at: Date): string {
  const tree = billTree(bill, { number, name, version: label });
  return writeBomXml({ ...outLine(tree), writtenAt: at.toISOString(), lens: 'bill' });
}

function outLine(line: BomLine): OutLine {
  const { number, name, version, amount, find, designators, configurations, values, children } = line;
  return {
    ...{ number, name, version, amount, find, designators, configurations, values, alternates: [] },
    children: children.map(outLine),
  };
}
