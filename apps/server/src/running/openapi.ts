/** The description of all routes as OpenAPI 3.1, written from the table of routes. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { MOST_BODY_BYTES, ROUTES, type Route, type RouteFacts } from '@stem-trace/contract';
import { INPUTS, type RouteInput } from '@stem-trace/contract/schemas';
import type { Schema } from 'joi';
import { VERSION } from './version.js';

type Json = Readonly<Record<string, unknown>>;

const require = createRequire(import.meta.url);
/** The package's types do not say that it is a function. */
const toJson = require('joi-to-json') as (schema: Schema, dialect: 'open-api-3.1') => Json;

/** JSON Schemas of all answers, by the names of their types. */
export const ANSWER_SCHEMAS = JSON.parse(
  readFileSync(require.resolve('@stem-trace/contract/answer-schemas.json'), 'utf8'),
) as Readonly<Record<string, Json>>;

/** OpenAPI 3.1.0, with JSON Schema 2020-12. */
export function describeApi(): Json {
  const paths: Record<string, Record<string, Json>> = {};
  for (const [route, facts] of Object.entries(ROUTES) as [Route, RouteFacts][]) {
    const [method = 'GET', path = '/'] = route.split(' ');
    const address = path.replace(/:(\w+)/g, '{$1}');
    paths[address] = {
      ...paths[address],
      [method.toLowerCase()]: operation(route, facts, INPUTS[route] ?? {}),
    };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Stem Trace',
      version: VERSION,
      summary: 'Search, trace, compare and derive managed design data.',
      license: { name: 'Apache-2.0', identifier: 'Apache-2.0' },
    },
    servers: [{ url: '/' }],
    tags: [...new Set(Object.values(ROUTES).map(({ room }) => room))].map((name) => ({ name })),
    security: [{ token: [] }, { session: [] }],
    paths,
    components: {
      schemas: withComponentRefs(ANSWER_SCHEMAS),
      securitySchemes: {
        token: { type: 'http', scheme: 'bearer', description: 'A token for a program, made under Settings.' },
        session: { type: 'apiKey', in: 'cookie', name: 'stem_session' },
      },
    },
  };
}

function operation(route: Route, facts: RouteFacts, input: RouteInput): Json {
  const parameters = [...parametersOf(input.path, 'path'), ...parametersOf(input.query, 'query')];
  const body = bodyOf(facts, input);
  return {
    operationId: route.replace(
      /\/api\/|[ /:.-]+(\w)/g,
      (_, letter: string | undefined) => letter?.toUpperCase() ?? '',
    ),
    tags: [facts.room],
    summary: facts.does,
    description: wanted(facts),
    ...(facts.wants === 'nobody' ? { security: [] } : {}),
    ...(parameters.length > 0 ? { parameters } : {}),
    ...(body ? { requestBody: body } : {}),
    responses: {
      [facts.status]: { description: facts.does, ...contentOf(facts) },
      default: {
        description: 'A problem, with what to do',
        content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
      },
    },
  };
}

function wanted({ wants, refusesEach }: RouteFacts): string {
  if (wants === 'nobody') return 'Needs no sign-in.';
  if (wants === 'signed in') return 'For everybody who is signed in.';
  if (wants === 'administrator') return 'For administrators.';
  const where = `Needs the right to ${wants} where the items or places lie`;
  return refusesEach ? `${where}; what may not be done is refused item by item.` : `${where}.`;
}

function contentOf({ answer, isList }: RouteFacts): Json {
  if (answer === null) return {};
  if (typeof answer === 'object')
    return {
      content: { [answer.media]: { schema: answer.media.includes('json') ? {} : { type: 'string' } } },
    };
  const one = { $ref: `#/components/schemas/${answer}` };
  return { content: { 'application/json': { schema: isList ? { type: 'array', items: one } : one } } };
}

function bodyOf({ upload, mostBytes = MOST_BODY_BYTES }: RouteFacts, { body }: RouteInput): Json | undefined {
  if (upload)
    return {
      required: true,
      description: `At most ${upload.mostBytes} bytes.`,
      content: { [upload.media]: { schema: {} } },
    };
  if (!body) return undefined;
  return {
    required: true,
    description: `At most ${mostBytes} bytes.`,
    content: { 'application/json': { schema: schemaOf(body) } },
  };
}

function parametersOf(schema: Schema | undefined, where: 'path' | 'query'): Json[] {
  if (!schema) return [];
  const { properties = {}, required = [] } = schemaOf(schema) as {
    properties?: Readonly<Record<string, Json>>;
    required?: readonly string[];
  };
  return Object.entries(properties).map(([name, own]) => ({
    name,
    in: where,
    required: where === 'path' || required.includes(name),
    schema: own,
  }));
}

function schemaOf(schema: Schema): Json {
  return toJson(schema, 'open-api-3.1');
}

function withComponentRefs(schemas: Readonly<Record<string, Json>>): Json {
  return JSON.parse(JSON.stringify(schemas).replaceAll('#/definitions/', '#/components/schemas/')) as Json;
}
