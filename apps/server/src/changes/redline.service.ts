import type { FileAnswer, RedlineAnswer, RedlineFileRequest, RedlineRow } from '@stem-trace/contract';
import { isChange, isFlat, sayWhat, type BomSum } from '@stem-trace/core';
import type { CompareService } from '../compare/compare.service.js';
import type { Person } from '../database/entities/person.js';
import type { PrintService } from '../mark-up/print.service.js';
import { ProblemError } from '../problems/problem.js';
import type { ChangeViewService } from './change-view.service.js';
import { changeNotice, redlineXml, type DrawnOver } from './redline-file.js';

const SIGNS = { added: '+', removed: '−', changed: '≠', replaced: '⇄', moved: '↕', same: '=' } as const;

/** What an order changes: each revision that it makes, held against what was before. */
export class RedlineService {
  constructor(
    private readonly views: ChangeViewService,
    private readonly comparisons: CompareService,
    private readonly prints: PrintService,
  ) {}

  /** `O(rows of all that it makes)`, first levels alone. @throws ProblemError INPUT_INVALID where it is no order */
  async of(reference: string, person: Person): Promise<RedlineAnswer> {
    const view = await this.views.view(reference, person);
    if (view.kind !== 'order')
      throw new ProblemError(
        'INPUT_INVALID',
        `${view.number} is a request, and makes nothing. Name a change order.`,
      );
    const rows: RedlineRow[] = [];
    for (const { number, name, kind, format, from, to } of view.makes) {
      const of = { number, name, kind, format, from, to };
      rows.push(
        from === null || isChange(kind)
          ? { ...of, says: 'It is new.', whole: [], rows: [], massKg: null, cost: null }
          : { ...of, ...(await this.compared(number, from, to, person)) },
      );
    }
    const sum = (of: (row: RedlineRow) => { before: number; after: number } | null): number | null => {
      const known = topmost(rows).flatMap((row) => of(row) ?? []);
      return known.length === 0 ? null : known.reduce((all, { before, after }) => all + after - before, 0);
    };
    return {
      change: { number: view.number, name: view.name, version: view.version, state: view.state },
      ...{
        rows,
        hidden: view.makesHidden,
        massKg: sum(({ massKg }) => massKg),
        cost: sum(({ cost }) => cost),
      },
    };
  }

  /** As a change notice, to be printed with its drawings laid over each other, or read by programs. */
  async file({ change, format }: RedlineFileRequest, person: Person): Promise<FileAnswer> {
    const view = await this.views.view(change, person);
    const redline = await this.of(change, person);
    if (format === 'xml') return redlineXml(view, redline);
    const drawings = new Map<string, DrawnOver>();
    for (const { number, format: made, from, to } of redline.rows)
      if (isFlat(made) && from !== null)
        drawings.set(number, await this.prints.laidOver(`${number}@${from}`, `${number}@${to}`, person));
    return changeNotice(view, redline, drawings);
  }

  private async compared(
    number: string,
    from: string,
    to: string,
    person: Person,
  ): Promise<Pick<RedlineRow, 'says' | 'whole' | 'rows' | 'massKg' | 'cost'>> {
    const { sentence, whole, rows, effect } = await this.comparisons.compare(
      {
        from: `${number}@${from}`,
        to: `${number}@${to}`,
        net: false,
        lens: 'recorded',
        hand: [],
        columns: [],
      },
      person,
    );
    return {
      ...{ says: sentence, whole },
      // What lies further in is told where that is made by the order itself.
      rows: rows.flatMap((row) =>
        row.sign === 'same' || row.level > 1
          ? []
          : [
              {
                ...{ sign: SIGNS[row.sign], number: row.number, name: (row.after ?? row.before)?.name ?? '' },
                ...{ before: said(row.before), after: said(row.after), what: sayWhat(row).join('; ') },
              },
            ],
      ),
      massKg: known(effect.from, effect.to, 'massKg', 'massUnknown'),
      cost: known(effect.from, effect.to, 'cost', 'costUnknown'),
    };
  }
}

function said(side: { readonly version: string; readonly amount: string } | null): string {
  return side ? `${side.version} ×${side.amount}`.trim() : '';
}

function known(
  from: BomSum,
  to: BomSum,
  of: 'massKg' | 'cost',
  unknown: 'massUnknown' | 'costUnknown',
): { readonly before: number; readonly after: number } | null {
  return from[unknown] > 0 || to[unknown] > 0 || (from[of] === 0 && to[of] === 0)
    ? null
    : { before: from[of], after: to[of] };
}

/** Without what stands inside something else that the order makes: its mass is counted there. */
function topmost(rows: readonly RedlineRow[]): readonly RedlineRow[] {
  const inside = new Set(rows.flatMap(({ rows: own }) => own.map(({ number }) => number)));
  return rows.filter(({ number }) => !inside.has(number));
}
