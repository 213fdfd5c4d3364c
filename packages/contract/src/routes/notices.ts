import type { RoomRoutes } from '../route-facts.js';

export const NOTICES_ROUTES = {
  'GET /api/notices': {
    does: 'What one was told',
    room: 'notices',
    status: 200,
    wants: 'signed in',
    answer: 'NoticesAnswer',
  },
  'POST /api/notices/read': {
    does: 'Mark all as read',
    room: 'notices',
    status: 204,
    wants: 'signed in',
    answer: null,
  },
  'GET /api/notices/ways': {
    does: 'How one wants to be told of what',
    room: 'notices',
    status: 200,
    wants: 'signed in',
    answer: 'NoticeSettingAnswer',
  },
  'PUT /api/notices/ways': {
    does: 'Set where mail goes, and what is told how',
    room: 'notices',
    status: 200,
    wants: 'signed in',
    answer: 'NoticeSettingAnswer',
  },
  'POST /api/watch': {
    does: 'Watch an item or a place, or no more',
    room: 'notices',
    status: 204,
    wants: 'see',
    answer: null,
  },
} as const satisfies RoomRoutes;
