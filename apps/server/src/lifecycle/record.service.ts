import type { FileAnswer } from '@stem-trace/contract';
import { writePdf, type OutRow, type OutTable } from '@stem-trace/formats';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { counted } from '../trail/record.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { recordLines, type RecordLine } from './record-lines.js';
import type { SheetsService } from './sheets.service.js';

/** What is drawn and written on files is told to whoever may have them. */
const OF_FILES: ReadonlySet<string> = new Set(['mark-up', 'remark']);

/** The record of an item, or of all on a check sheet, to be printed: versions, what was said, who decided and signed. */
export class RecordService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly sheets: SheetsService,
  ) {}

  /** @throws ProblemError ITEM_UNKNOWN */
  async item(reference: string, person: Person): Promise<FileAnswer> {
    const item = await this.catalogue.resolve(reference, person);
    const newest = await this.catalogue.newest(item.itemId);
    return this.print(
      `Record of ${item.number}`,
      [`${item.number} ${item.name}, ${newest.label}, ${newest.state}.`],
      [newest],
      person,
    );
  }

  /** @throws ProblemError NOT_FOUND */
  async sheet(id: string, person: Person): Promise<FileAnswer> {
    const { title, sentBy, sentAt, reason, rows, hidden } = await this.sheets.view(id, person);
    const items = await this.catalogue.resolveAll(
      rows.map(({ number }) => number),
      person,
    );
    const says = [
      `${title}. Sent by ${sentBy}, ${utc(new Date(sentAt))}${reason === '' ? '' : `: ${reason}`}.`,
      ...(hidden > 0
        ? [`${counted(hidden, 'item')} of it not visible to ${person.name}, and not printed.`]
        : []),
    ];
    return this.print(`Record of check sheet ${id}`, says, items, person);
  }

  private async print(
    title: string,
    says: readonly string[],
    items: readonly DescribedVersion[],
    person: Person,
  ): Promise<FileAnswer> {
    const rights = await this.rights.of(person);
    const lines = await recordLines(
      this.database.manager,
      items.map(({ itemId }) => itemId),
    );
    const unread = new Set(
      items.flatMap(({ itemId, placeId }) => (rights.may('fetch', placeId) ? [] : itemId)),
    );
    const told = lines.filter(({ itemId, what }) => !(OF_FILES.has(what) && unread.has(itemId)));
    const now = new Date();
    const table = tableOf(
      { title, says: [...says, `Printed for ${person.name}, ${utc(now)}.`] },
      items,
      told,
    );
    const bytes = await writePdf(table, now.toISOString().slice(0, 10));
    return { name: `${title}.pdf`, media: 'application/pdf', base64: Buffer.from(bytes).toString('base64') };
  }
}

function tableOf(
  head: Pick<OutTable, 'title' | 'says'>,
  items: readonly DescribedVersion[],
  lines: readonly RecordLine[],
): OutTable {
  const of = new Map<string, RecordLine[]>();
  for (const line of lines) of.set(line.itemId, [...(of.get(line.itemId) ?? []), line]);
  return {
    ...head,
    columns: [
      { title: 'Item', width: 18, isTree: true, wraps: true },
      { title: 'Version', width: 8 },
      { title: 'When', width: 24, wraps: true },
      { title: 'What', width: 12 },
      { title: 'Who', width: 18, wraps: true },
      { title: 'Words', width: 50, wraps: true },
    ],
    rows: items.flatMap(({ itemId, number, name, label, state }): OutRow[] => [
      { level: 1, cells: [number, label, '', state, '', name] },
      ...(of.get(itemId) ?? []).map((line) => ({
        level: 2,
        cells: ['', line.version, whenOf(line), line.what, line.by, wordsOf(line)],
      })),
    ]),
  };
}

function wordsOf({ what, words }: RecordLine): string {
  return what === 'signature' ? `signed: ${words}` : words;
}

function whenOf({ at, zone }: RecordLine): string {
  return zone === null ? utc(at) : `${inZone(at, zone)} (${utc(at)})`;
}

/** `2026-03-31 12:05 UTC` */
function utc(at: Date): string {
  return `${at.toISOString().slice(0, 16).replace('T', ' ')} UTC`;
}

/** `2026-03-31 14:05 Europe/Oslo`, as it was where somebody signed. */
function inZone(at: Date, zone: string): string {
  const parts = new Intl.DateTimeFormat('sv-SE', {
    ...{
      timeZone: zone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
    },
  }).format(at);
  return `${parts} ${zone}`;
}
