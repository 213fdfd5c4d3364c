import { Controller, Get, Header, Query, StreamableFile } from '@nestjs/common';
import type { SceneAnswer } from '@stem-trace/contract';
import { fetchSchema, itemSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { MeshesService, type SceneRequest } from './meshes.service.js';

@Controller('api')
export class MeshesController {
  constructor(private readonly meshes: MeshesService) {}

  @Get('scene')
  scene(
    @Query(new Validate(fetchSchema)) request: SceneRequest,
    @Caller() person: Person,
  ): Promise<SceneAnswer> {
    return this.meshes.sceneOf(request, person);
  }

  /** Binary glTF 2.0; mass properties from the mesh in the root's extras. */
  @Get('mesh')
  @Header('Cache-Control', 'private, max-age=3600')
  async mesh(
    @Query(new Validate(itemSchema)) { item }: { item: string },
    @Caller() person: Person,
  ): Promise<StreamableFile> {
    return new StreamableFile(await this.meshes.meshOf(item, person), { type: 'model/gltf-binary' });
  }
}
