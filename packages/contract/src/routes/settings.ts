import type { RoomRoutes } from '../route-facts.js';

export const SETTINGS_ROUTES = {
  'GET /api/settings/title-block': {
    does: 'What the fields of title blocks mean',
    room: 'settings',
    status: 200,
    wants: 'signed in',
    answer: 'TitleBlockSetting',
  },
  'PUT /api/settings/title-block': {
    does: 'Say what the fields of title blocks mean',
    room: 'settings',
    status: 200,
    wants: 'administrator',
    answer: 'TitleBlockSetting',
  },
  'GET /api/settings/revisions': {
    does: 'How revisions are called',
    room: 'settings',
    status: 200,
    wants: 'signed in',
    answer: 'RevisionSetting',
  },
  'PUT /api/settings/revisions': {
    does: 'Say how revisions are called',
    room: 'settings',
    status: 200,
    wants: 'administrator',
    answer: 'RevisionSetting',
  },
  'GET /api/settings/zone': {
    does: 'The zone in which days begin and end at the site',
    room: 'settings',
    status: 200,
    wants: 'signed in',
    answer: 'ZoneSetting',
  },
  'PUT /api/settings/zone': {
    does: 'Say in which zone days begin and end at the site',
    room: 'settings',
    status: 200,
    wants: 'administrator',
    answer: 'ZoneSetting',
  },
} as const satisfies RoomRoutes;
