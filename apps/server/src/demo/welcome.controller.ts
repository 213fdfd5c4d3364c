import { Controller } from '@nestjs/common';
import type { WelcomeAnswer } from '@stem-trace/contract';
import { DemoPeople } from './demo-people.js';
import { Serve } from '../serve/serve.js';

/** What may be known before signing in. */
@Controller()
export class WelcomeController {
  constructor(private readonly people: DemoPeople) {}

  @Serve('GET /api/welcome')
  async welcome(): Promise<WelcomeAnswer> {
    return { demo: await this.people.list() };
  }
}
