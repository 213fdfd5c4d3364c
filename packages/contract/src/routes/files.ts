import type { RoomRoutes } from '../route-facts.js';

export const FILES_ROUTES = {
  'GET /api/fetch': {
    does: 'An item with everything below it as files that refer to one another',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: { media: 'application/zip' },
  },
  'GET /api/fetch/plan': {
    does: 'What a fetch would hand out, without handing it out',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: 'FetchPlanAnswer',
  },
  'GET /api/fetch/joined': {
    does: 'An assembly as one STEP file, for programs that read no references',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: { media: 'model/step' },
  },
  'GET /api/file': {
    does: 'The file of a version as it was stored',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: { media: 'application/octet-stream' },
  },
  'GET /api/text': {
    does: 'The text in a file, as it is found by',
    room: 'files',
    status: 200,
    wants: 'see',
    answer: 'FileTextAnswer',
  },
  'GET /api/document': {
    does: 'A workbook as tables, or a document as flowing text',
    room: 'files',
    status: 200,
    wants: 'fetch',
    answer: 'DocumentAnswer',
  },
  'GET /api/mesh': {
    does: 'The mesh of a part',
    room: 'files',
    status: 200,
    wants: 'see',
    answer: { media: 'model/gltf-binary' },
  },
  'POST /api/meshes': {
    does: 'Packed meshes of many parts, of those that are kept already: a length of each (32 bits, little-endian; 0 where none is kept), then their bytes',
    room: 'files',
    status: 200,
    wants: 'see',
    isQuestion: true,
    answer: { media: 'application/octet-stream' },
  },
} as const satisfies RoomRoutes;
