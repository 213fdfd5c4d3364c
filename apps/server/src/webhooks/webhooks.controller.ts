import { Controller } from '@nestjs/common';
import type {
  DeliveryRow,
  WebhookDraft,
  WebhookMade,
  WebhookReference,
  WebhookRow,
} from '@stem-trace/contract';
import type { Person } from '../database/entities/person.js';
import { Caller } from '../serve/access.guard.js';
import { Input, Serve } from '../serve/serve.js';
import { WebhooksService } from './webhooks.service.js';

@Controller()
export class WebhooksController {
  constructor(private readonly webhooks: WebhooksService) {}

  @Serve('GET /api/webhooks')
  list(): Promise<WebhookRow[]> {
    return this.webhooks.list();
  }

  @Serve('POST /api/webhooks')
  create(@Input() draft: WebhookDraft, @Caller() person: Person): Promise<WebhookMade> {
    return this.webhooks.create(draft, person);
  }

  @Serve('DELETE /api/webhooks/:id')
  remove(@Input() { id }: WebhookReference, @Caller() person: Person): Promise<WebhookRow[]> {
    return this.webhooks.remove(id, person);
  }

  @Serve('POST /api/webhooks/test')
  test(@Input() { id }: WebhookReference): Promise<DeliveryRow> {
    return this.webhooks.test(id);
  }

  @Serve('GET /api/webhooks/:id/log')
  log(@Input() { id }: WebhookReference): Promise<DeliveryRow[]> {
    return this.webhooks.log(id);
  }
}
