import type { CarryAnswer, CarryRequest, ContradictionView, VersionMade } from '@stem-trace/contract';
import {
  carryOver,
  DELETED,
  keyOfContradiction,
  LIES_IN,
  ORDER,
  saySide,
  type BuildBill,
  type CarriedOver,
  type Contradiction,
} from '@stem-trace/core';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService } from '../store/catalogue.service.js';
import type { BillContents } from './bill-contents.js';
import type { BillsService } from './bills.service.js';
import type { EngineeringService } from './engineering.service.js';

/** Brings later engineering into bills. */
export class CarryService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly contents: BillContents,
    private readonly bills: BillsService,
    private readonly engineering: EngineeringService,
  ) {}

  /** What carrying over would bring; nothing is written. @throws ProblemError NOT_ALLOWED where something is not visible */
  async preview(reference: string, person: Person): Promise<CarryAnswer> {
    const version = await this.catalogue.resolve(reference, person);
    const bill = await this.contents.read(version);
    const { hidden } = await this.bills.asSeen(bill, await this.rights.of(person));
    if (hidden > 0)
      throw new ProblemError(
        'NOT_ALLOWED',
        `${version.number} has rows that are not visible to you, so that nothing can be carried over. Ask for access to them.`,
      );
    const newer = await this.newer(bill, person);
    const carried = carryOver(bill, newer);
    return {
      item: bill.engineering.number,
      from: bill.engineering.version,
      to: newer.engineering.version,
      brought: carried.brought,
      contradictions: carried.contradictions.map((each) => viewOf(each, bill, carried)),
      movedOut: carried.movedOut.map((id) => carried.bill.rows.find((row) => row.id === id)?.number ?? id),
    };
  }

  /** All of it, or nothing. @throws ProblemError NOT_HELD; INPUT_INVALID where something is not decided, or engineering moved on since */
  async carryOut(
    { bill, version, to, decisions, comment }: CarryRequest,
    person: Person,
    at = new Date(),
  ): Promise<VersionMade> {
    const named = await this.catalogue.resolve(bill, person, 'change');
    const newer = await this.newer(await this.contents.read(named), person);
    if (newer.engineering.version !== to)
      throw new ProblemError(
        'INPUT_INVALID',
        `Engineering is at ${newer.engineering.version} by now; you looked at ${to}. Nothing was carried over. Look at it again.`,
      );
    return this.bills.change({ bill, version }, person, {
      comment: comment || `Carried over from ${newer.engineering.number} ${to}`,
      says: 'carried engineering over into the bill',
      at,
      next: (before) => {
        const carried = carryOver(before, newer, new Map(Object.entries(decisions)));
        const open = carried.contradictions.filter(
          (each) => decisions[keyOfContradiction(each)] === undefined,
        );
        if (open.length > 0)
          throw new ProblemError(
            'INPUT_INVALID',
            `${open.length === 1 ? '1 contradiction is' : `${open.length} contradictions are`} not decided. Nothing was carried over; decide each of them.`,
          );
        return Promise.resolve(carried.bill);
      },
    });
  }

  private async newer(bill: BuildBill, person: Person): ReturnType<EngineeringService['rows']> {
    const { number } = await this.catalogue.newest(bill.engineering.itemId);
    return this.engineering.rows(number, bill.engineering.lens as 'newest', person);
  }
}

function viewOf(contradiction: Contradiction, before: BuildBill, { bill }: CarriedOver): ContradictionView {
  const { id, what } = contradiction;
  const named = (of: string): string => {
    const row = [...before.rows, ...bill.rows].find((each) => each.id === of);
    return row ? row.number || row.name : of;
  };
  const row = [...before.rows, ...bill.rows].find((each) => each.id === id);
  const column = before.columns.find((each) => what === `column ${each.id}`);
  const say = (text: string | undefined): string => {
    if (text === undefined) return 'not there';
    if (what === LIES_IN) return text === '' ? 'the first level' : named(text);
    if (what === ORDER) return text.split('\n').map(named).join(', ');
    return saySide(what, text);
  };
  return {
    key: keyOfContradiction(contradiction),
    ...{ id, number: row?.number ?? '', name: row?.name ?? '' },
    what: WORDS[what] ?? column?.name ?? what,
    ...{ base: say(contradiction.base), mine: say(contradiction.mine), theirs: say(contradiction.theirs) },
  };
}

const WORDS: Readonly<Record<string, string>> = {
  [DELETED]: 'removed by one side, changed by the other',
  [LIES_IN]: 'lies in',
  [ORDER]: 'order of its rows',
  amount: 'quantity',
  item: 'item',
  find: 'find number',
};
