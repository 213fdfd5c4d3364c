import type { RoomRoutes } from '../route-facts.js';

export const RUNNING_ROUTES = {
  'GET /health': {
    does: 'Whether the server runs',
    room: 'running',
    status: 200,
    wants: 'nobody',
    answer: 'Health',
  },
  'GET /ready': {
    does: 'Whether the server can answer: its database does',
    room: 'running',
    status: 200,
    wants: 'nobody',
    answer: 'Health',
  },
  'GET /api/openapi.json': {
    does: 'This description',
    room: 'running',
    status: 200,
    wants: 'nobody',
    answer: { media: 'application/json' },
  },
  'GET /api/jobs': {
    does: 'Work that goes on in the background: one’s own, and all for administrators',
    room: 'running',
    status: 200,
    wants: 'signed in',
    answer: 'JobView',
    isList: true,
  },
  'POST /api/jobs/cancel': {
    does: 'End work that waits or goes on in the background',
    room: 'running',
    status: 204,
    wants: 'signed in',
    isQuestion: true,
    answer: null,
  },
  'POST /api/jobs/retry': {
    does: 'Do work once more that failed or was ended',
    room: 'running',
    status: 204,
    wants: 'signed in',
    isQuestion: true,
    answer: null,
  },
  'GET /api/feed': {
    does: 'Kinds of what changes, as it happens',
    room: 'running',
    status: 200,
    wants: 'signed in',
    answer: { media: 'text/event-stream' },
  },
  'GET /api/verify': {
    does: 'Whether the store is whole',
    room: 'running',
    status: 200,
    wants: 'administrator',
    answer: 'VerifyAnswer',
  },
} as const satisfies RoomRoutes;
