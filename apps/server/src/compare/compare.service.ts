import { Injectable } from '@nestjs/common';
import type { CompareAnswer, CompareRowSide, LensText } from '@stem-trace/contract';
import {
  addTo,
  compareTotals,
  compareTrees,
  countDifferences,
  explode,
  sayDifference,
  type BomLine,
  type LineSide,
} from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
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
    private readonly rights: RightsService,
  ) {}

  async compare({ from, to, net, lens }: CompareRequest, person: Person): Promise<CompareAnswer> {
    const [before, after] = await Promise.all([
      this.catalogue.resolveUnder(from, parseLens(lens), { person, orNewest: true }),
      this.catalogue.resolveUnder(to, parseLens(lens), { person, orNewest: true }),
    ]);
    const rights = await this.rights.of(person);
    const [fromTree, toTree] = await Promise.all([
      this.tree(before, lens, rights),
      this.tree(after, lens, rights),
    ]);
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

  private async tree(root: DescribedVersion, lens: LensText, rights: Rights): Promise<BomLine> {
    const graph = await this.loader.below(root.id, parseLens(lens));
    const rows = explode(graph, root.id, { lens: parseLens(lens) });
    const ids = [...new Set(rows.flatMap((row) => row.version?.id ?? []))];
    const described = await this.catalogue.describe(ids);
    const origins = await this.originsOf([root.id, ...ids]);
    const lines: { line: BomLine; children: BomLine[] }[] = [];
    const rootChildren: BomLine[] = [];
    const hiddenRows = new Set<number>();
    for (const row of rows) {
      const known = row.version ? described.get(row.version.id) : undefined;
      if (known && !rights.may('see', known.placeId)) {
        // It counts as a line, so that totals are right, and says nothing of itself or what it is made of.
        const hidden = hiddenLine(known, row.quantity);
        lines.push({ line: hidden, children: [] });
        if (!hiddenRows.has(row.parentRow)) (lines[row.parentRow]?.children ?? rootChildren).push(hidden);
        hiddenRows.add(lines.length - 1);
        continue;
      }
      const version = known;
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
    const rows = await readRows(
      this.database,
      { id: text, origin: text },
      `WITH RECURSIVE chain AS (
         SELECT id, origin_version_id AS origin FROM version WHERE id = ANY($1::bigint[]) AND origin_version_id IS NOT NULL
         UNION
         SELECT c.id, v.origin_version_id FROM chain c JOIN version v ON v.id = c.origin WHERE v.origin_version_id IS NOT NULL
       ) SELECT id, origin FROM chain ORDER BY origin`,
      [versionIds],
    );
    const origins = new Map<string, string[]>();
    for (const { id, origin } of rows) addTo(origins, id, origin);
    return origins;
  }
}

function hiddenLine({ itemId, stemId, id }: DescribedVersion, quantity: number): BomLine {
  return {
    itemId,
    stem: stemId,
    number: 'not visible to you',
    name: '',
    versionId: id,
    version: '',
    originVersions: [],
    quantity,
    placements: [],
    children: [],
  };
}

function sideView({ number, name, version, quantity }: LineSide): CompareRowSide {
  return { number, name, version, quantity };
}
