import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import type { Files } from './test-store.js';

const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

/**
 * Writes fetched files to a disk that minds capitals, and opens every file whose name a plain search finds in their data.
 *
 * @throws where two files meet, or a name leads to no file
 */
export async function everyNameHasAFile(files: Files): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'stem-trace-fetched-'));
  try {
    for (const [path, bytes] of files) {
      await mkdir(dirname(join(folder, path)), { recursive: true });
      await writeFile(join(folder, path), bytes, { flag: 'wx' });
    }
    for (const [path, bytes] of files)
      for (const name of designFilesNamedIn(path, bytes)) await readFile(join(folder, dirname(path), name));
  } finally {
    await rm(folder, { recursive: true });
  }
}

function designFilesNamedIn(path: string, bytes: Uint8Array): string[] {
  if (/\.dxf$/i.test(path))
    return text(bytes)
      .split(/\r?\n/)
      .filter((line, at) => at % 2 === 1 && /\.dxf$/i.test(line))
      .map((line) =>
        line.replace(/\\U\+([0-9A-F]{4})/g, (_, hex: string) => String.fromCharCode(parseInt(hex, 16))),
      );
  if (!/\.stp$/i.test(path)) return [];
  const data = text(bytes)
    .slice(text(bytes).indexOf('DATA;'))
    .replace(/\/\*.*?\*\//g, '');
  return [...data.matchAll(/'((?:[^']|'')*)'/g)]
    .map(([, said = '']) =>
      said
        .replaceAll("''", "'")
        .replaceAll('\\\\', '\\')
        .replace(/\\X2\\([0-9A-F]+)\\X0\\/g, (_, hex: string) =>
          String.fromCharCode(...(hex.match(/..../g) ?? []).map((code) => parseInt(code, 16))),
        )
        .replace(/-Doc$/, ''),
    )
    .filter((name) => /\.stp$/i.test(name));
}
