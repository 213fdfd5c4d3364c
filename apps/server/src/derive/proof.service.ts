import { Injectable } from '@nestjs/common';
import {
  applyTitleBlock,
  proveVariant,
  RECORDED,
  type ExpectedReference,
  type FileReading,
  type Proof,
} from '@stem-trace/core';
import { readFile } from '@stem-trace/formats';
import { DataSource } from 'typeorm';
import { FetchService } from '../fetch/fetch.service.js';
import { FetchTreeService } from '../fetch/fetch-tree.js';
import { CatalogueService, type DescribedVersion } from '../items/catalogue.service.js';
import { SettingsService } from '../settings/settings.service.js';
import { loadLinks } from '../structure/structure-loader.js';

/** Proves a variant: its files are made as for a fetch, read back, and every reference compared with the store. */
@Injectable()
export class ProofService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly trees: FetchTreeService,
    private readonly fetches: FetchService,
    private readonly settings: SettingsService,
  ) {}

  /**
   * @param copies new version by the version that it was copied from
   * @param origins the versions copied or shared, by id
   */
  async prove(
    topVersion: string,
    copies: ReadonlyMap<string, string>,
    origins: ReadonlyMap<string, DescribedVersion>,
  ): Promise<Proof> {
    const top = (await this.catalogue.describe([topVersion])).get(topVersion);
    if (!top) throw new Error(`version ${topVersion} is not in the store`);
    const tree = await this.trees.collect(top, {
      lens: RECORDED,
      drawings: true,
      mayFetch: () => true,
    });
    const rules = await this.settings.titleBlock();
    const readings = new Map<string, FileReading>();
    const pathOf = new Map(tree.plan.files.map((file) => [file.versionId, file.path]));
    for (const file of tree.plan.files) {
      const { bytes } = await this.fetches.bytesOf(file);
      readings.set(file.path, applyTitleBlock(await readFile(bytes, file.path), rules));
    }
    const inTree = new Map([...tree.contents.values()].flat().map((version) => [version.id, version]));
    const made = new Set(copies.values());
    const links = await loadLinks(
      this.database.manager,
      'l.version_id',
      [...inTree.keys()],
      ['component', 'depicts', 'draws on'],
    );
    const fileOf = (version: DescribedVersion): string =>
      pathOf.get(version.carrierVersion ?? version.id) ?? '';
    const expected = links.flatMap((link): ExpectedReference[] => {
      const parent = inTree.get(link.parentVersion);
      const child = inTree.get(link.targetVersion ?? '');
      if (!parent || !child || !made.has(parent.id)) return [];
      return [
        {
          path: fileOf(parent),
          parentNumber: parent.number,
          childNumber: child.number,
          childPath: fileOf(child),
          quantity: link.quantity,
          kind: made.has(child.id) ? 'copied' : 'shared',
        },
      ];
    });
    const knownGaps = links.flatMap((link) => {
      const parent = inTree.get(link.parentVersion);
      return parent && link.targetVersion === undefined
        ? [`${fileOf(parent)}#${link.locator ?? link.targetText}`]
        : [];
    });
    const copiedOrigins = [...copies.keys()].flatMap((id) => origins.get(id) ?? []);
    return proveVariant({
      readings,
      expected,
      copiedPaths: new Set([...made].flatMap((id) => pathOf.get(id) ?? [])),
      originNames: new Set(
        copiedOrigins.flatMap((origin) => [origin.number, origin.fileName]).filter((name) => name !== ''),
      ),
      knownGaps: new Set(knownGaps),
    });
  }
}
