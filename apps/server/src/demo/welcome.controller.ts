import { Controller, Get } from '@nestjs/common';
import type { WelcomeAnswer } from '@stem-trace/contract';
import { OpenToAll } from '../access/access.guard.js';
import { DemoPeople } from './demo-people.js';

/** What may be known before signing in. */
@Controller('api/welcome')
export class WelcomeController {
  constructor(private readonly people: DemoPeople) {}

  @OpenToAll()
  @Get()
  async welcome(): Promise<WelcomeAnswer> {
    return { demo: await this.people.list() };
  }
}
