import { Controller, Get, Header, Query, StreamableFile } from '@nestjs/common';
import type { SceneAnswer } from '@stem-trace/contract';
import { fetchSchema, itemSchema } from '@stem-trace/contract/schemas';
import { Validate } from '../problems/validate.js';
import { MeshesService, type SceneRequest } from './meshes.service.js';

@Controller('api')
export class MeshesController {
  constructor(private readonly meshes: MeshesService) {}

  @Get('scene')
  scene(@Query(new Validate(fetchSchema)) request: SceneRequest): Promise<SceneAnswer> {
    return this.meshes.sceneOf(request);
  }

  /** Binary glTF 2.0; mass properties from the mesh in the root's extras. */
  @Get('mesh')
  @Header('Cache-Control', 'private, max-age=3600')
  async mesh(@Query(new Validate(itemSchema)) { item }: { item: string }): Promise<StreamableFile> {
    return new StreamableFile(await this.meshes.meshOf(item), { type: 'model/gltf-binary' });
  }
}
