/** Intake sheets from what somebody picked or dropped. */
import { send, uploadArchive } from './client.js';
import { topFolderOf, uploadAll, type PickedFile } from './picked-files.js';
import { readWorkingCopy } from './picked-working-copy.js';

export interface Progress {
  readonly done: number;
  readonly total: number;
}

/** Begins a sheet with what was picked: an archive, a working copy or other files. @returns its id */
export async function beginSheet(
  picked: readonly PickedFile[],
  { place, prefix }: { readonly place: string; readonly prefix: string },
  tell: (progress: Progress) => void,
): Promise<string> {
  const [first] = picked;
  if (!first) throw new Error('There are no files in it. Choose a folder with design files.');
  if (picked.length === 1 && /\.zip$/i.test(first.path)) {
    tell({ done: 0, total: 1 });
    const name = first.path.replace(/\.zip$/i, '');
    const to = { place: place || `/${name}`, prefix };
    return (await uploadArchive('/api/intakes/archive', to, first.file)).id;
  }
  const workingCopy = await readWorkingCopy(picked);
  const files = workingCopy?.changed ?? picked;
  tell({ done: 0, total: files.length });
  const created = await send('POST', '/api/intakes', {
    place: place || `/${topFolderOf(picked)}`,
    prefix,
    ...(workingCopy ? { manifest: workingCopy.manifest } : {}),
  });
  await uploadAll(created.id, files, (done) => tell({ done, total: files.length }));
  return created.id;
}
