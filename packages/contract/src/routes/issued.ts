import type { RoomRoutes } from '../route-facts.js';

export const ISSUED_ROUTES = {
  'GET /api/issued': {
    does: 'Files that were issued of an item, or of one version of it, the newest version first',
    room: 'issued',
    status: 200,
    wants: 'see',
    answer: 'IssuedFileRow',
    isList: true,
  },
  'GET /api/issued/from': {
    does: 'What a file was issued of, by its SHA-256, and what is released now',
    room: 'issued',
    status: 200,
    wants: 'signed in',
    answer: 'IssuedFromRow',
    isList: true,
  },
  'GET /api/issued/file': {
    does: 'An issued file',
    room: 'issued',
    status: 200,
    wants: 'receive',
    answer: { media: 'application/octet-stream' },
  },
  'POST /api/issued/again': {
    does: 'Try once more to make an issued file that could not be made',
    room: 'issued',
    status: 204,
    wants: 'release',
    answer: null,
  },
  'GET /api/settings/issued': {
    does: 'Which files are issued of what',
    room: 'issued',
    status: 200,
    wants: 'signed in',
    answer: 'IssuedFilesSetting',
  },
  'PUT /api/settings/issued': {
    does: 'Set which files are issued of what',
    room: 'issued',
    status: 200,
    wants: 'administrator',
    answer: 'IssuedFilesSetting',
  },
} as const satisfies RoomRoutes;
