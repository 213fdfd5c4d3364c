/** Holds every answer that a test gets against the schema that the table of routes promises. */
import { ROUTES, type Route } from '@stem-trace/contract';
import { Ajv, type ValidateFunction } from 'ajv';
import { ANSWER_SCHEMAS } from '../running/openapi.js';

const ajv = new Ajv({ strict: false, allowUnionTypes: true });
ajv.addSchema({ $id: 'answers', definitions: ANSWER_SCHEMAS });
const validators = new Map<string, ValidateFunction>();

const PATTERNS = (Object.keys(ROUTES) as Route[]).map((route) => {
  const [method = '', path = ''] = route.split(' ');
  const pattern = path.replaceAll('.', '\\.').replace(/:\w+/g, '[^/]+');
  return { route, method, matches: new RegExp(`^${pattern}$`) };
});

/** The route that a request asks for, the most exact one. */
export function routeAt(method: string, path: string): Route | undefined {
  const { pathname } = new URL(path, 'http://test');
  const found = PATTERNS.filter((pattern) => pattern.method === method && pattern.matches.test(pathname));
  return (found.find(({ route }) => !route.includes(':')) ?? found[0])?.route;
}

/** @throws Error that says where an answer is not what was promised */
export async function checkAnswer(method: string, path: string, response: Response): Promise<void> {
  const route = routeAt(method, path);
  if (route === undefined) return;
  const facts = ROUTES[route];
  const isProblem = !response.ok;
  if (!isProblem && response.status !== facts.status)
    throw new Error(`${route} answered ${response.status}, not ${facts.status}`);
  if (!isProblem && (facts.answer === null || typeof facts.answer === 'object')) return;
  const name = isProblem ? 'Problem' : String(facts.answer);
  const key = !isProblem && facts.isList ? `${name}[]` : name;
  const validator =
    validators.get(key) ??
    ajv.compile(
      key === name
        ? { $ref: `answers#/definitions/${name}` }
        : { type: 'array', items: { $ref: `answers#/definitions/${name}` } },
    );
  validators.set(key, validator);
  const answer: unknown = await response.clone().json();
  if (validator(answer)) return;
  const faults = (validator.errors ?? [])
    .slice(0, 3)
    .map(({ instancePath, message }) => `${instancePath} ${message}`);
  throw new Error(`${route} answered what is no ${key}: ${faults.join('; ')}`);
}
