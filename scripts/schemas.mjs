// `npm run schemas`: writes the JSON Schemas of all answers from their TypeScript types. A test says when that is due.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import prettier from 'prettier';
import { createGenerator } from 'ts-json-schema-generator';
import { ROOT, start } from './lib/run.mjs';

const FILE = join(ROOT, 'packages/contract/src/answer-schemas.json');

/** @returns the text that the file should have */
export async function answerSchemas() {
  const rooms = join(ROOT, 'packages/contract/src/routes');
  const source = readdirSync(rooms)
    .map((room) => readFileSync(join(rooms, room), 'utf8'))
    .join('\n');
  const names = [
    ...new Set([...source.matchAll(/^ {4}answer: '(\w+)',$/gm)].map(([, name]) => name)),
    'Problem',
  ];
  const definitions = {};
  const generator = createGenerator({
    path: join(ROOT, 'packages/contract/src/answers.ts'),
    tsconfig: join(ROOT, 'packages/contract/tsconfig.json'),
    type: '*',
    skipTypeCheck: true,
    additionalProperties: false,
    topRef: true,
    expose: 'export',
    jsDoc: 'basic',
  });
  for (const name of names) Object.assign(definitions, generator.createSchema(name).definitions);
  const sorted = Object.fromEntries(Object.entries(definitions).sort(([a], [b]) => (a < b ? -1 : 1)));
  return prettier.format(JSON.stringify(sorted), { parser: 'json', ...(await prettier.resolveConfig(FILE)) });
}

if (process.argv[1] === import.meta.filename) start(async () => writeFileSync(FILE, await answerSchemas()));
