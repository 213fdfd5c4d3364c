import type { RoomRoutes } from '../route-facts.js';

export const MARK_UP_ROUTES = {
  'GET /api/print': {
    does: 'A drawing to scale, or pages or a picture, as PDF; with what people drew on it where that is wanted',
    room: 'mark-up',
    status: 200,
    wants: 'fetch',
    answer: { media: 'application/pdf' },
  },
  'GET /api/mark-up': {
    does: 'What people drew and wrote on a version, and what is open still of those before it',
    room: 'mark-up',
    status: 200,
    wants: 'fetch',
    answer: 'MarkUpAnswer',
  },
  'POST /api/mark-up': {
    does: 'Draw or write on a version',
    room: 'mark-up',
    status: 201,
    wants: 'fetch',
    answer: 'MarkMade',
  },
  'POST /api/mark-up/change': {
    does: 'Move or reword a mark of one’s own',
    room: 'mark-up',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/mark-up/remark': {
    does: 'Answer a mark',
    room: 'mark-up',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/mark-up/settle': {
    does: 'Settle a mark, or open it again',
    room: 'mark-up',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'POST /api/mark-up/remove': {
    does: 'Take away a mark of one’s own that nobody answered',
    room: 'mark-up',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
} as const satisfies RoomRoutes;
