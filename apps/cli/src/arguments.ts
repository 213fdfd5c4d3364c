import { parseArgs, type ParseArgsConfig } from 'node:util';
import { CliError } from './client.js';

type Options = NonNullable<ParseArgsConfig['options']>;

export interface Parsed {
  readonly positionals: readonly string[];
  text(name: string): string | undefined;
  texts(name: string): readonly string[];
  flag(name: string): boolean;
}

/** @throws CliError where the words do not fit, with how it is written */
export function parseVerb(
  args: readonly string[],
  options: Options,
  count: { min: number; max: number },
  usage: string,
): Parsed {
  try {
    const { values: typed, positionals } = parseArgs({
      args: [...args],
      options: { ...options, json: { type: 'boolean' } },
      allowPositionals: true,
    });
    const values: Readonly<Record<string, unknown>> = typed;
    if (positionals.length < count.min || positionals.length > count.max)
      throw new Error('Wrong number of words.');
    return {
      positionals,
      text: (name) => {
        const value = values[name];
        return typeof value === 'string' ? value : undefined;
      },
      texts: (name) => {
        const value = values[name];
        return Array.isArray(value) ? value.map(String) : [];
      },
      flag: (name) => values[name] === true,
    };
  } catch (error) {
    throw new CliError(`${error instanceof Error ? error.message : String(error)}\nUsage: stem ${usage}`);
  }
}

/**
 * `A,B,C` to its parts, blanks around them dropped. A part that holds a comma or a quote stands in quotes, with quotes in it
 * doubled, as in a CSV file: `A,"3/8"", long"`.
 */
export function splitList(...texts: readonly (string | undefined)[]): string[] {
  return texts.flatMap((text) =>
    [...(text ?? '').matchAll(/\s*(?:"((?:[^"]|"")*)"\s*(?=,|$)|([^,]*))(?:,|$)/g)].flatMap(
      ([, quoted, plain = '']) => (quoted === undefined ? plain.trim() || [] : quoted.replaceAll('""', '"')),
    ),
  );
}
