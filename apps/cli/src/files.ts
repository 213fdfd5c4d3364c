import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { CliError } from './client.js';

/** Relative paths of all files below a folder. @throws CliError where it is not one */
export async function filesIn(folder: string): Promise<string[]> {
  const info = await stat(folder).catch(() => undefined);
  if (!info?.isDirectory())
    throw new CliError(`${folder} is neither a folder nor a file. Give what holds the designs.`);
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  return entries
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(folder.length + 1))
    .sort();
}
