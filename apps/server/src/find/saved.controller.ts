import { Body, Controller, Delete, Get, HttpCode, Param, Post } from '@nestjs/common';
import type { SavedRow, SaveRequest } from '@stem-trace/contract';
import { savedParameters, saveSchema } from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { SavedService } from './saved.service.js';

@Controller('api/saved')
export class SavedController {
  constructor(private readonly saved: SavedService) {}

  @Get()
  list(@Caller() person: Person): Promise<SavedRow[]> {
    return this.saved.list(person);
  }

  @Post()
  @HttpCode(200)
  save(@Body(new Validate(saveSchema)) request: SaveRequest, @Caller() person: Person): Promise<SavedRow[]> {
    return this.saved.save(request, person);
  }

  @Delete(':id')
  remove(
    @Param(new Validate(savedParameters)) { id }: { id: string },
    @Caller() person: Person,
  ): Promise<SavedRow[]> {
    return this.saved.remove(id, person);
  }
}
