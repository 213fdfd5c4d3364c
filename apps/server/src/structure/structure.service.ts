import { Injectable } from '@nestjs/common';
import type { LensText, StructureAnswer, StructureRow } from '@stem-trace/contract';
import { explode, topsOf, whereUsed, type LinkEdge, type VersionNode } from '@stem-trace/core';
import { CatalogueService, type DescribedVersion } from '../items/catalogue.service.js';
import { parseLens } from './lens-text.js';
import { StructureLoader } from './structure-loader.js';

export interface StructureRequest {
  readonly item: string;
  readonly lens: LensText;
  readonly all: boolean;
  readonly tops: boolean;
}

/** What an item is made of, and what uses it. */
@Injectable()
export class StructureService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
  ) {}

  async made({ item, lens, all }: StructureRequest): Promise<StructureAnswer> {
    const root = await this.catalogue.resolve(item);
    const levels = all ? Infinity : 1;
    const graph = await this.loader.below(root.id, parseLens(lens), levels);
    const rows = explode(graph, root.id, { lens: parseLens(lens), levels });
    const described = await this.catalogue.describe(versionsToDescribe(rows));
    return {
      item: head(root),
      lens,
      rows: rows.map((row) => ({
        ...this.common(row, described),
        level: row.level,
        quantity: row.quantity,
        total: row.total,
        parent: this.numberAt(rows[row.parentRow]?.version, described) ?? root.number,
        behind: row.behind,
        more: row.version !== undefined && graph.linksOf(row.version.id).length > 0,
      })),
    };
  }

  async used({ item, lens, all, tops }: StructureRequest): Promise<StructureAnswer> {
    const root = await this.catalogue.resolve(item);
    const graph = await this.loader.above(root.itemId);
    const rows = whereUsed(graph, root.itemId, { lens: parseLens(lens), levels: all || tops ? Infinity : 1 });
    const described = await this.catalogue.describe(versionsToDescribe(rows));
    const chosen = tops ? topsOf(rows) : rows.map((row) => ({ row, total: row.total }));
    return {
      item: head(root),
      lens,
      rows: chosen.map(({ row, total }) => ({
        ...this.common(row, described),
        level: row.level,
        quantity: row.quantity,
        total,
        parent: this.numberAt(rows[row.childRow]?.version, described) ?? root.number,
        behind: row.behind,
        more: !row.top,
      })),
    };
  }

  private common(
    row: { link: LinkEdge; version?: VersionNode },
    described: ReadonlyMap<string, DescribedVersion>,
  ): Pick<StructureRow, 'number' | 'name' | 'kind' | 'version' | 'state' | 'recorded' | 'gap' | 'heldBy'> {
    const version = row.version ? described.get(row.version.id) : undefined;
    const recorded = row.link.targetVersion === undefined ? undefined : described.get(row.link.targetVersion);
    const known = version ?? recorded;
    return {
      number: known?.number ?? row.link.targetText,
      name: known?.name ?? row.link.locator ?? '',
      kind: known?.kind ?? null,
      version: version?.label ?? null,
      state: version?.state ?? null,
      recorded: recorded?.label ?? null,
      gap: version === undefined,
      heldBy: known?.heldBy ?? null,
    };
  }

  private numberAt(
    version: VersionNode | undefined,
    described: ReadonlyMap<string, DescribedVersion>,
  ): string | undefined {
    return version ? described.get(version.id)?.number : undefined;
  }
}

function versionsToDescribe(rows: readonly { link: LinkEdge; version?: VersionNode }[]): string[] {
  const ids = new Set<string>();
  for (const { link, version } of rows) {
    if (version) ids.add(version.id);
    if (link.targetVersion !== undefined) ids.add(link.targetVersion);
  }
  return [...ids];
}

function head({ number, name, label, kind, state }: DescribedVersion): StructureAnswer['item'] {
  return { number, name, version: label, kind, state };
}
