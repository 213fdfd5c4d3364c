import type { RoomRoutes } from '../route-facts.js';

export const LIFECYCLE_ROUTES = {
  'POST /api/steps': {
    does: 'Move items from state to state: all of them, or none',
    room: 'lifecycle',
    status: 200,
    wants: 'change',
    answer: 'CustodyAnswer',
    mostBytes: 2_000_000,
  },
  'POST /api/steps/preview': {
    does: 'What a step would do, and what would be refused',
    room: 'lifecycle',
    status: 200,
    wants: 'see',
    isQuestion: true,
    answer: 'StepPreview',
  },
  'GET /api/checks': {
    does: 'What waits for one’s decision',
    room: 'lifecycle',
    status: 200,
    wants: 'signed in',
    answer: 'CheckRow',
    isList: true,
  },
  'POST /api/align/preview': {
    does: 'What aligning revision codes would change',
    room: 'lifecycle',
    status: 200,
    wants: 'release',
    answer: 'AlignAnswer',
    mostBytes: 2_000_000,
  },
  'POST /api/align': {
    does: 'Bring revision codes into line with the scheme',
    room: 'lifecycle',
    status: 200,
    wants: 'release',
    answer: 'AlignAnswer',
    mostBytes: 2_000_000,
  },
} as const satisfies RoomRoutes;
