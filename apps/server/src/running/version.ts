import { readFileSync } from 'node:fs';

/** Of the program, as its package says. */
export const VERSION: string = (
  JSON.parse(readFileSync(new URL('../../package.json', import.meta.url), 'utf8')) as { version: string }
).version;
