import { holderFor } from '../store/names.js';
import { Injectable } from '@nestjs/common';
import type { AmountView, BillAnswer, BillFault, BillRow, LensText } from '@stem-trace/contract';
import {
  billRows,
  checkDesignators,
  checkEffectivity,
  checkFinds,
  partRows,
  sayAmount,
  sayDesignators,
  saySpans,
  waysOf,
  type Amount,
} from '@stem-trace/core';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { AlternatesService } from './alternates.service.js';
import { BomTreeService, type StoreLine } from './bom-tree.service.js';

export interface BillRequest {
  readonly item: string;
  readonly lens: LensText;
  /** Parts only, with quantities multiplied. */
  readonly flat: boolean;
  /** Names of properties. */
  readonly columns: readonly string[];
}

/** The BOM of an item. */
@Injectable()
export class BillService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly trees: BomTreeService,
    private readonly rights: RightsService,
    private readonly alternates: AlternatesService,
  ) {}

  /** @throws ProblemError ITEM_UNKNOWN, VERSION_UNKNOWN, STRUCTURE_TOO_LARGE */
  async bill({ item, lens, flat, columns }: BillRequest, person: Person): Promise<BillAnswer> {
    const root = await this.catalogue.resolveUnder(item, lens, { person });
    const rights = await this.rights.of(person);
    const tree = await this.trees.tree(root, { lens, rights, columns });
    const rows = flat ? flatRows(tree) : levelRows(tree);
    const others = await this.alternates.ofRows(
      rows.map(({ line }) => line.itemId ?? ''),
      rights,
    );
    return {
      item: {
        ...{ number: root.number, name: root.name, version: root.label, kind: root.kind },
        ...{ state: root.state, heldBy: holderFor(rights, root.heldBy) },
      },
      lens,
      isFlat: flat,
      rows: rows.map(({ line, ...row }) => ({
        ...row,
        alternates: (others.get(line.itemId ?? '') ?? []).filter(
          ({ onlyIn }) => onlyIn === null || onlyIn === row.user,
        ),
      })),
      faults: faultsOf(tree),
    };
  }
}

/** A row, with the line that it is of. */
type Row = Omit<BillRow, 'alternates'> & { readonly line: StoreLine };

function levelRows(tree: StoreLine): Row[] {
  const ways = waysOf(tree);
  const users: StoreLine[] = [tree];
  return billRows(tree).map(({ line, level, total }) => {
    const user = users[level - 1];
    users[level] = line;
    return {
      ...{ ...rowOf(line), level, way: ways.get(line) ?? '', total: [amountView(total)], line },
      ...{ user: user?.number ?? '', userVersion: user?.version ?? '' },
    };
  });
}

function flatRows(tree: StoreLine): Row[] {
  return partRows(tree).map(({ line, amounts, from }) => ({
    ...rowOf(line),
    level: 1,
    way: line.number,
    // Each of these is said of one place alone.
    ...{ find: '', configurations: '', position: null, planned: '', actual: '', userVersion: '' },
    designators: from.length === 1 ? sayDesignators(line.designators) : '',
    total: amounts.map(amountView),
    from: from.map(({ number, amounts: needed }) => ({ number, said: needed.map(sayAmount).join(', ') })),
    line,
    user: '',
  }));
}

function rowOf(
  line: StoreLine,
): Omit<BillRow, 'alternates' | 'level' | 'way' | 'total' | 'user' | 'userVersion'> {
  const { find, number, name, version, kind, state, values, source, position, isGap, heldBy } = line;
  return {
    ...{ find, number, name, version, values, isGap, heldBy },
    kind: kind ?? null,
    state: state ?? null,
    source: source === undefined || source === 'unknown' ? '' : source,
    amount: amountView(line.amount),
    designators: sayDesignators(line.designators),
    configurations: line.configurations.join(', '),
    position: position ?? null,
    planned: saySpans(line.effectivity?.planned),
    actual: saySpans(line.effectivity?.actual),
    isHidden: line.isHidden === true,
    from: [],
  };
}

export function amountView(amount: Amount): AmountView {
  return { ...amount, said: sayAmount(amount) };
}

/** What follows one another in time under a find number has it once. */
function findsToTell(rows: readonly StoreLine[]): string[] {
  const inTurn = new Set(rows.flatMap(({ find, effectivity }) => (effectivity && find !== '' ? [find] : [])));
  return rows.flatMap(({ find }, at) =>
    inTurn.has(find) && rows.findIndex((each) => each.find === find) < at ? [] : [find],
  );
}

/** What is wrong with find numbers, what shares them in time, and designators, once for each assembly however often it is met. */
function faultsOf(tree: StoreLine): BillFault[] {
  const seen = new Set<string>();
  const faults: BillFault[] = [];
  const visit = (line: StoreLine): void => {
    if (line.children.length === 0 || seen.has(line.versionId ?? '')) return;
    seen.add(line.versionId ?? '');
    const rows = line.children.filter((child) => child.kind !== 'drawing' && child.kind !== 'document');
    const said = [
      ...checkFinds(findsToTell(rows)),
      ...checkEffectivity(
        rows.map(({ number: named, find: place, effectivity }) => ({
          ...{ named, place },
          ...(effectivity ? { effectivity } : {}),
        })),
      ).map(({ says }) => ({ kind: 'effectivity' as const, says, rows: [] })),
      ...checkDesignators(
        rows.map(({ designators, amount }) => ({
          designators,
          ...(amount.unit === '' && /^\d+$/.test(amount.value) ? { pieces: Number(amount.value) } : {}),
        })),
      ).map((fault) => ({
        ...fault,
        says: fault.kind === 'count' ? `${rows[fault.rows[0] ?? 0]?.number}: ${fault.says}` : fault.says,
      })),
    ];
    faults.push(...said.map(({ says }) => ({ number: line.number, says })));
    for (const child of line.children) visit(child);
  };
  visit(tree);
  return faults;
}
