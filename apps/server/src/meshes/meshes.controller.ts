import { Controller, Header, Req, StreamableFile } from '@nestjs/common';
import type {
  ChangeSceneRequest,
  KeepSceneRequest,
  KeptScene,
  KeptScenesAnswer,
  LikeAnswer,
  MeshForm,
  OverlapsAnswer,
  OverlapsProgress,
  OverlapsQuestion,
  SceneKept,
} from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import { readUpload } from '../serve/read-body.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { WorkHost } from '../work/work-host.js';
import { KeptScenesService } from './kept-scenes.service.js';
import { MeshesService } from './meshes.service.js';
import type { NearRequest } from './near.service.js';
import { OverlapsService } from './overlaps.service.js';
import type { SceneRequest } from './scene.service.js';
import { ShapesService } from './shapes.service.js';
import type { Request } from 'express';
import { Input, Serve } from '../serve/serve.js';

/** A part that is looked up by its shape; larger ones take longer than anybody waits. */
const MOST_BYTES = 64 * 1024 * 1024;

@Controller()
export class MeshesController {
  constructor(
    private readonly meshes: MeshesService,
    private readonly shapes: ShapesService,
    private readonly work: WorkHost,
    private readonly scenes: KeptScenesService,
    private readonly overlapping: OverlapsService,
  ) {}

  @Serve('GET /api/like')
  like(
    @Input() { item }: { item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<LikeAnswer> {
    return this.shapes.like(item, person, asker);
  }

  /** Of a STEP file in the body, which is not kept. */
  @Serve('POST /api/like')
  async likeFile(@Req() request: Request, @Caller() person: Person): Promise<LikeAnswer> {
    return this.shapes.likeFile(await readUpload(request, MOST_BYTES), person);
  }

  @Serve('GET /api/scene')
  scene(
    @Input() { item, lens }: SceneRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('scene', { item, lens }, person, asker);
  }

  @Serve('GET /api/near')
  near(
    @Input() { item, lens, of, to, nodes, within }: NearRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json(
      'near',
      { item, lens, of, ...(to === undefined ? {} : { to }), nodes, within },
      person,
      asker,
    );
  }

  @Serve('GET /api/overlaps')
  overlaps(
    @Input() question: OverlapsQuestion,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<OverlapsAnswer> {
    return this.overlapping.found(question, person, asker);
  }

  @Serve('POST /api/overlaps')
  askOverlaps(
    @Input() question: OverlapsQuestion & { again: boolean },
    @Caller() person: Person,
  ): Promise<OverlapsProgress> {
    return this.overlapping.ask(question, person);
  }

  @Serve('GET /api/scene/traits')
  traits(
    @Input() { item, lens }: SceneRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('traits', { item, lens }, person, asker);
  }

  @Serve('GET /api/scenes')
  kept(@Input() { item }: { item: string }, @Caller() person: Person): Promise<KeptScenesAnswer> {
    return this.scenes.list(item, person);
  }

  @Serve('GET /api/scenes/one')
  keptOne(@Input() { id }: { id: string }, @Caller() person: Person): Promise<KeptScene> {
    return this.scenes.open(id, person);
  }

  @Serve('POST /api/scenes')
  keep(@Input() request: KeepSceneRequest, @Caller() person: Person): Promise<SceneKept> {
    return this.scenes.keep(request, person);
  }

  @Serve('PUT /api/scenes')
  change(@Input() request: ChangeSceneRequest, @Caller() person: Person): Promise<void> {
    return this.scenes.change(request, person);
  }

  @Serve('POST /api/scenes/remove')
  remove(@Input() { id }: { id: string }, @Caller() person: Person): Promise<void> {
    return this.scenes.remove(id, person);
  }

  @Serve('POST /api/meshes')
  async many(
    @Input() { items }: { items: readonly string[] },
    @Caller() person: Person,
  ): Promise<StreamableFile> {
    const kept = await this.meshes.keptOf(items, person);
    const lengths = Buffer.alloc(4 * kept.length);
    kept.forEach((mesh, at) => lengths.writeUInt32LE(mesh?.length ?? 0, 4 * at));
    return new StreamableFile(Buffer.concat([lengths, ...kept.flatMap((mesh) => mesh ?? [])]), {
      type: 'application/octet-stream',
    });
  }

  /** Binary glTF 2.0; mass properties from the mesh in the root's extras. */
  @Serve('GET /api/mesh')
  @Header('Cache-Control', 'private, max-age=3600')
  async mesh(
    @Input() { item, form }: { item: string; form: MeshForm },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<StreamableFile> {
    const mesh = await this.meshes.meshOf(item, { person, asker, form });
    return new StreamableFile(mesh, { type: 'model/gltf-binary' });
  }
}
