import { Controller, Get, Header, Query, StreamableFile } from '@nestjs/common';
import { itemSchema } from '@stem-trace/contract/schemas';
import { Validate } from '../problems/validate.js';
import { MeshesService } from './meshes.service.js';

@Controller('api/mesh')
export class MeshesController {
  constructor(private readonly meshes: MeshesService) {}

  /** Binary glTF 2.0; mass properties from the mesh in the root's extras. */
  @Get()
  @Header('Cache-Control', 'private, max-age=3600')
  async mesh(@Query(new Validate(itemSchema)) { item }: { item: string }): Promise<StreamableFile> {
    return new StreamableFile(await this.meshes.meshOf(item), { type: 'model/gltf-binary' });
  }
}
