import { Controller, Header } from '@nestjs/common';
import { Serve } from '../serve/serve.js';
import { describeApi } from './openapi.js';

/** What the server answers, for programs. */
@Controller()
export class ApiDocsController {
  private readonly description = describeApi();

  @Serve('GET /api/openapi.json')
  @Header('Cache-Control', 'no-cache')
  openapi(): object {
    return this.description;
  }
}
