import type { RoomRoutes } from '../route-facts.js';

export const WEBHOOKS_ROUTES = {
  'GET /api/webhooks': {
    does: 'Programs that are told what happens',
    room: 'webhooks',
    status: 200,
    wants: 'administrator',
    answer: 'WebhookRow',
    isList: true,
  },
  'POST /api/webhooks': {
    does: 'Tell another program what happens; the secret that signs it is told once',
    room: 'webhooks',
    status: 201,
    wants: 'administrator',
    answer: 'WebhookMade',
  },
  'DELETE /api/webhooks/:id': {
    does: 'Tell a program nothing more',
    room: 'webhooks',
    status: 200,
    wants: 'administrator',
    answer: 'WebhookRow',
    isList: true,
  },
  'POST /api/webhooks/test': {
    does: 'Send a test, and say what came of it',
    room: 'webhooks',
    status: 200,
    wants: 'administrator',
    answer: 'DeliveryRow',
  },
  'GET /api/webhooks/:id/log': {
    does: 'What a program was sent last, and what came of it',
    room: 'webhooks',
    status: 200,
    wants: 'administrator',
    answer: 'DeliveryRow',
    isList: true,
  },
} as const satisfies RoomRoutes;
