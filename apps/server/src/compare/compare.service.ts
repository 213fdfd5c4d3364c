import { Injectable } from '@nestjs/common';
import type { CompareAnswer, ComparedSide, CompareRowSide, LensText } from '@stem-trace/contract';
import {
  compareTotals,
  compareTrees,
  countDifferences,
  effectOf,
  sayAmount,
  sayDesignators,
  sayDifference,
  type HandPair,
  type LineSide,
  type PairKey,
} from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { BomTreeService, type StoreLine } from '../bom/bom-tree.service.js';
import type { Person } from '../database/entities/person.js';
import { readRow, text, timeText } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { parseLens } from '../structure/lens-text.js';
import { WholesService } from './wholes.service.js';

export interface CompareRequest {
  /** `NUMBER` or `NUMBER@B/3` */
  readonly from: string;
  readonly to: string;
  readonly net: boolean;
  readonly lens: LensText;
  /** Of one side, where that is another than `lens`. */
  readonly fromLens?: LensText;
  readonly toLens?: LensText;
  readonly by?: readonly PairKey[];
  readonly hand: readonly HandPair[];
  /** Names of properties that are compared too. */
  readonly columns: readonly string[];
}

export interface Side {
  readonly said: ComparedSide;
  readonly tree: StoreLine;
  readonly version: DescribedVersion;
}

/** What is different between two BOMs. */
@Injectable()
export class CompareService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly trees: BomTreeService,
    private readonly rights: RightsService,
    private readonly wholes: WholesService,
  ) {}

  async compare(request: CompareRequest, person: Person): Promise<CompareAnswer> {
    const { net, lens, fromLens = lens, toLens = lens, by, hand, columns } = request;
    const rights = await this.rights.of(person);
    const [from, to] = await Promise.all([
      this.side(request.from, fromLens, { person, rights, columns }),
      this.side(request.to, toLens, { person, rights, columns }),
    ]);
    const options = { hand, columns, ...(by ? { by } : {}) };
    const rows = net ? compareTotals(from.tree, to.tree, options) : compareTrees(from.tree, to.tree, options);
    const counts = countDifferences(rows);
    const whole = await this.wholes.compare(from.version, to.version, rights);
    return {
      from: from.said,
      to: to.said,
      sentence: sayDifference(from.said, to.said, counts, whole.length === 0),
      counts,
      whole,
      effect: effectOf(from.tree, to.tree),
      rows: rows.map(({ sign, level, before, after, by: pairedBy, differs }) => ({
        sign,
        level,
        number: (after ?? before)?.number ?? '',
        before: before ? sideView(before) : null,
        after: after ? sideView(after) : null,
        by: pairedBy ?? null,
        differs,
      })),
    };
  }

  private async side(
    reference: string,
    lens: LensText,
    { person, rights, columns }: { person: Person; rights: Rights; columns: readonly string[] },
  ): Promise<Side> {
    const version = await this.catalogue.resolveUnder(reference, parseLens(lens), { person, orNewest: true });
    const tree = await this.trees.tree(version, { lens, rights, columns });
    const made = await readRow(
      this.database,
      { at: timeText, author: text },
      `SELECT v.created_at AS at, p.name AS author FROM version v JOIN person p ON p.id = v.author_id WHERE v.id = $1`,
      [version.id],
    );
    const { number, name, label } = version;
    return { said: { number, name, version: label, lens, ...made }, tree, version };
  }
}

export function sideView(side: LineSide): CompareRowSide {
  const { number, name, version, amount, find, designators, configurations, values, way, chain, state } =
    side;
  return {
    ...{ number, name, version, find, values, way },
    amount: sayAmount(amount),
    designators: sayDesignators(designators),
    configurations: configurations.join(', '),
    in: chain.at(-2) ?? '',
    state: state ?? null,
    isHidden: side.isHidden === true,
  };
}
