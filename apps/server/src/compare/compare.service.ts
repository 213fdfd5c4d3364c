import { Injectable } from '@nestjs/common';
import type { CompareAnswer, CompareRowSide, LensText } from '@stem-trace/contract';
import {
  compareTotals,
  compareTrees,
  countDifferences,
  explode,
  sayDifference,
  type BomLine,
  type LineSide,
} from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { CatalogueService, type DescribedVersion } from '../items/catalogue.service.js';
import { parseLens } from '../structure/lens-text.js';
import { StructureLoader } from '../structure/structure-loader.js';

export interface CompareRequest {
  readonly from: string;
  readonly to: string;
  readonly net: boolean;
  readonly lens: LensText;
}

/** What is different between two versions, of one item or of two. */
@Injectable()
export class CompareService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
  ) {}

  async compare({ from, to, net, lens }: CompareRequest): Promise<CompareAnswer> {
    const [before, after] = await Promise.all([this.catalogue.resolve(from), this.catalogue.resolve(to)]);
    const [fromTree, toTree] = await Promise.all([this.tree(before, lens), this.tree(after, lens)]);
    const rows = net ? compareTotals(fromTree, toTree) : compareTrees(fromTree, toTree);
    const counts = countDifferences(rows);
    const fromSide = { number: before.number, name: before.name, version: before.label };
    const toSide = { number: after.number, name: after.name, version: after.label };
    return {
      from: fromSide,
      to: toSide,
      sentence: sayDifference(fromSide, toSide, counts),
      counts,
      rows: rows.map((row) => ({
        sign: row.sign,
        chain: row.chain,
        number: row.chain.at(-1) ?? '',
        before: row.before ? sideView(row.before) : null,
        after: row.after ? sideView(row.after) : null,
        differs: row.differs,
      })),
    };
  }

  private async tree(root: DescribedVersion, lens: LensText): Promise<BomLine> {
    const graph = await this.loader.below(root.id, parseLens(lens));
    const rows = explode(graph, root.id, { lens: parseLens(lens) });
    const ids = [...new Set(rows.flatMap((row) => row.version?.id ?? []))];
    const described = await this.catalogue.describe(ids);
    const origins = await this.originsOf([root.id, ...ids]);
    const lines: { line: BomLine; children: BomLine[] }[] = [];
    const rootChildren: BomLine[] = [];
    for (const row of rows) {
      const version = row.version ? described.get(row.version.id) : undefined;
      const children: BomLine[] = [];
      const itemId = version?.itemId ?? row.link.targetItem ?? `gap:${row.link.targetText}`;
      const line: BomLine = {
        itemId,
        stem: version?.stemId ?? itemId,
        number: version?.number ?? row.link.targetText,
        name: version?.name ?? '',
        ...(version ? { versionId: version.id } : {}),
        version: version?.label ?? '',
        originVersions: version ? (origins.get(version.id) ?? []) : [],
        quantity: row.quantity,
        placements: row.link.occurrences.map(({ placement }) => placement),
        children,
      };
      lines.push({ line, children });
      (lines[row.parentRow]?.children ?? rootChildren).push(line);
    }
    return {
      itemId: root.itemId,
      stem: root.stemId,
      number: root.number,
      name: root.name,
      versionId: root.id,
      version: root.label,
      originVersions: origins.get(root.id) ?? [],
      quantity: 1,
      placements: [],
      children: rootChildren,
    };
  }

  /** The versions that each version goes back to, through any number of derivations. */
  private async originsOf(versionIds: readonly string[]): Promise<Map<string, string[]>> {
    const rows: { id: string; origin: string }[] = await this.database.query(
      `WITH RECURSIVE chain AS (
         SELECT id, origin_version_id AS origin FROM version WHERE id = ANY($1::bigint[]) AND origin_version_id IS NOT NULL
         UNION
         SELECT c.id, v.origin_version_id FROM chain c JOIN version v ON v.id = c.origin WHERE v.origin_version_id IS NOT NULL
       ) SELECT id, origin FROM chain`,
      [versionIds],
    );
    const origins = new Map<string, string[]>();
    for (const { id, origin } of rows) origins.set(id, [...(origins.get(id) ?? []), origin]);
    return origins;
  }
}

function sideView({ number, name, version, quantity }: LineSide): CompareRowSide {
  return { number, name, version, quantity };
}
