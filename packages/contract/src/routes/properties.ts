import type { RoomRoutes } from '../route-facts.js';

export const PROPERTIES_ROUTES = {
  'GET /api/properties': {
    does: 'Definitions and classes',
    room: 'properties',
    status: 200,
    wants: 'signed in',
    answer: 'PropertiesAnswer',
    isRemembered: true,
  },
  'PUT /api/properties/definition': {
    does: 'Define a property',
    room: 'properties',
    status: 200,
    wants: 'administrator',
    answer: 'PropertiesAnswer',
  },
  'PUT /api/properties/class': {
    does: 'Define a class',
    room: 'properties',
    status: 200,
    wants: 'administrator',
    answer: 'PropertiesAnswer',
  },
  'POST /api/items/properties': {
    does: 'Edit properties of held items',
    room: 'properties',
    status: 200,
    wants: 'change',
    answer: 'CustodyAnswer',
    mostBytes: 2_000_000,
  },
  'GET /api/numbers': {
    does: 'Schemes of serial numbers',
    room: 'properties',
    status: 200,
    wants: 'signed in',
    answer: 'NumberSchemeRow',
    isList: true,
    isRemembered: true,
  },
  'PUT /api/numbers': {
    does: 'Define a scheme of serial numbers',
    room: 'properties',
    status: 200,
    wants: 'administrator',
    answer: 'NumberSchemeRow',
    isList: true,
  },
  'POST /api/numbers/reserve': {
    does: 'Take serial numbers, each given once',
    room: 'properties',
    status: 200,
    wants: 'change',
    answer: 'NumbersReserved',
  },
} as const satisfies RoomRoutes;
