import { Injectable } from '@nestjs/common';
import { formatReference, type LensText, type SceneAnswer, type SceneMesh } from '@stem-trace/contract';
import { sceneOf, type Placement } from '@stem-trace/core';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { StructureLoader } from '../structure/structure-loader.js';
import { geometryOf } from './geometry-source.js';
import type { MeshFacts } from './mesh-facts.js';

export interface SceneRequest {
  readonly item: string;
  readonly lens: LensText;
}

export interface PlacedScene {
  readonly files: readonly {
    readonly version: DescribedVersion;
    readonly at: readonly Placement[];
    readonly nodes: readonly number[];
  }[];
  readonly nodes: SceneAnswer['nodes'];
  /** Of each node; undefined where one may not see it. */
  readonly versions: readonly (DescribedVersion | undefined)[];
  readonly root: DescribedVersion;
}

/** How parts stand together. */
@Injectable()
export class SceneService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
    private readonly rights: RightsService,
    private readonly facts: MeshFacts,
  ) {}

  /** Where the meshes of everything below an item stand in its frame, under a lens, and which uses they are. */
  async sceneOf(request: SceneRequest, person: Person): Promise<SceneAnswer> {
    const { files, nodes } = await this.placed(request, person);
    return {
      meshes: await Promise.all(
        files.map(async ({ version, at, nodes: uses }) => ({
          ...{ item: formatReference({ number: version.number, version: version.label }), at, nodes: uses },
          ...(await this.sizeOf(version)),
        })),
      ),
      nodes,
    };
  }

  private async sizeOf(version: DescribedVersion): Promise<Pick<SceneMesh, 'box' | 'triangles'>> {
    const facts = await this.facts.of(geometryOf(version));
    if (!facts) return {};
    const { min, max } = facts.mass.box;
    return { box: [min, max], triangles: facts.triangles };
  }

  /** The same, with the versions whose files have the geometry; what may not be seen is left out. */
  async placed({ item, lens }: SceneRequest, person: Person): Promise<PlacedScene> {
    const root = await this.catalogue.resolveUnder(item, lens, { person });
    const rights = await this.rights.of(person);
    const under = await this.catalogue.lens(lens, rights);
    const graph = await this.loader.below(root.id, under);
    const versions = await this.catalogue.describe([...graph.versions()].map(({ id }) => id));
    const { files, nodes } = sceneOf(graph, root.id, {
      lens: under,
      nodeOf: (id) => {
        const version = versions.get(id);
        return version && { isPart: version.kind === 'part', file: version.carrierVersion ?? id };
      },
    });
    const seen = nodes.map(({ version: id }) => {
      const version = versions.get(id);
      return version && rights.may('see', version.placeId) ? version : undefined;
    });
    const drawn = new Set(files.flatMap(({ nodes: uses }) => uses));
    return {
      root,
      versions: seen,
      files: files.flatMap(({ file, at, nodes: uses }) => {
        const version = versions.get(file);
        return version && rights.may('see', version.placeId) ? [{ version, at, nodes: uses }] : [];
      }),
      nodes: nodes.map(({ parent, name: use, at }, node) => {
        const version = seen[node];
        if (!version) return { ...UNSEEN, parent };
        const { number, name, kind, state } = version;
        return { parent, number, name, kind, state, use, ...(drawn.has(node) ? {} : { at }) };
      }),
    };
  }
}

const UNSEEN = { number: '', name: '', kind: 'part', state: null, use: '' } as const;
