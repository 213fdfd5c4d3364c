import type { RoomRoutes } from '../route-facts.js';

export const AUDIT_ROUTES = {
  'GET /api/audit': {
    does: 'A page of the trail, newest first',
    room: 'audit',
    status: 200,
    wants: 'administrator',
    answer: 'AuditAnswer',
  },
  'GET /api/audit.csv': {
    does: 'The trail as a table',
    room: 'audit',
    status: 200,
    wants: 'administrator',
    answer: { media: 'text/csv' },
  },
} as const satisfies RoomRoutes;
