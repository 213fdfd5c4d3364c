import { Controller, Get, Header, HttpCode, Post, Query, Req, StreamableFile } from '@nestjs/common';
import type { LikeAnswer, SceneAnswer } from '@stem-trace/contract';
import { fetchSchema, itemSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { Validate } from '../problems/validate.js';
import { MeshesService, type SceneRequest } from './meshes.service.js';
import { ShapesService } from './shapes.service.js';
import type { Request } from 'express';

/** A part that is looked up by its shape; larger ones take longer than anybody waits. */
const MOST_BYTES = 64 * 1024 * 1024;

@Controller('api')
export class MeshesController {
  constructor(
    private readonly meshes: MeshesService,
    private readonly shapes: ShapesService,
  ) {}

  @Get('like')
  like(
    @Query(new Validate(itemSchema)) { item }: { item: string },
    @Caller() person: Person,
  ): Promise<LikeAnswer> {
    return this.shapes.like(item, person);
  }

  /** Of a STEP file in the body, which is not kept. */
  @Post('like')
  @HttpCode(200)
  async likeFile(@Req() request: Request, @Caller() person: Person): Promise<LikeAnswer> {
    const chunks: Buffer[] = [];
    let size = 0;
    for await (const chunk of request as AsyncIterable<Buffer>) {
      size += chunk.length;
      if (size > MOST_BYTES)
        throw new ProblemError('FILE_TOO_LARGE', 'A file to compare shapes with has at most 64 MB.');
      chunks.push(chunk);
    }
    return this.shapes.likeFile(Buffer.concat(chunks), person);
  }

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
