import { Injectable } from '@nestjs/common';
import { formatReference, type LensText, type SceneAnswer } from '@stem-trace/contract';
import { sceneOf } from '@stem-trace/core';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { parseLens } from '../structure/lens-text.js';
import { StructureLoader } from '../structure/structure-loader.js';

export interface SceneRequest {
  readonly item: string;
  readonly lens: LensText;
}

/** How parts stand together. */
@Injectable()
export class SceneService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
    private readonly rights: RightsService,
  ) {}

  /** Where the meshes of everything below an item stand in its frame, under a lens. */
  async sceneOf({ item, lens }: SceneRequest, person: Person): Promise<SceneAnswer> {
    const root = await this.catalogue.resolveUnder(item, parseLens(lens), { person, orNewest: true });
    const rights = await this.rights.of(person);
    const graph = await this.loader.below(root.id, parseLens(lens));
    const versions = await this.catalogue.describe([...graph.versions()].map(({ id }) => id));
    const files = sceneOf(graph, root.id, {
      lens: parseLens(lens),
      nodeOf: (id) => {
        const version = versions.get(id);
        return version && { isPart: version.kind === 'part', file: version.carrierVersion ?? id };
      },
    });
    return {
      meshes: files.flatMap(({ file, at }) => {
        const version = versions.get(file);
        return version && rights.may('see', version.placeId)
          ? [{ item: formatReference({ number: version.number, version: version.label }), at }]
          : [];
      }),
    };
  }
}
