import type { RoomRoutes } from '../route-facts.js';

export const ITEMS_ROUTES = {
  'GET /api/item': {
    does: 'What the store knows of one item',
    room: 'items',
    status: 200,
    wants: 'see',
    answer: 'ItemView',
    isRemembered: true,
  },
  'POST /api/items/belong': {
    does: 'Say which model a drawing or document belongs to',
    room: 'items',
    status: 200,
    wants: 'change',
    answer: 'CustodyAnswer',
  },
  'GET /api/history': {
    does: 'What happened to an item, newest first',
    room: 'items',
    status: 200,
    wants: 'see',
    answer: 'HistoryAnswer',
  },
} as const satisfies RoomRoutes;
