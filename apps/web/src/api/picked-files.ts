/** Files as a person picks them, with the folders that they lie in. */
import type { DirectoryDropItem, DropItem } from 'react-aria-components';
import { upload } from './client.js';

export interface PickedFile {
  /** Relative path with `/`, without the folder that was picked itself. */
  readonly path: string;
  /** Name of that folder; empty where single files were picked. */
  readonly top: string;
  readonly file: File;
}

const PARALLEL_UPLOADS = 4;

export function filesOfInput(list: FileList): PickedFile[] {
  return [...list].map((file) => toPicked(file.webkitRelativePath || file.name, file));
}

export async function filesOfDrop(items: readonly DropItem[]): Promise<PickedFile[]> {
  const picked: PickedFile[] = [];
  for (const item of items) {
    if (item.kind === 'file') picked.push(toPicked(item.name, await item.getFile()));
    else if (item.kind === 'directory') await collect(item, item.name, picked);
  }
  return picked;
}

async function collect(folder: DirectoryDropItem, path: string, picked: PickedFile[]): Promise<void> {
  for await (const entry of folder.getEntries()) {
    if (entry.kind === 'file') picked.push(toPicked(`${path}/${entry.name}`, await entry.getFile()));
    else if (entry.kind === 'directory') await collect(entry, `${path}/${entry.name}`, picked);
  }
}

/** What was dropped outside of every target, folders with all below them. */
export async function filesOfTransfer(transfer: DataTransfer): Promise<PickedFile[]> {
  // Entries are there only as long as the event is.
  const entries = [...transfer.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  const picked: PickedFile[] = [];
  for (const entry of entries) await collectEntry(entry, entry.name, picked);
  return picked;
}

async function collectEntry(entry: FileSystemEntry, path: string, picked: PickedFile[]): Promise<void> {
  if (isFile(entry)) {
    picked.push(toPicked(path, await new Promise<File>((done, fail) => entry.file(done, fail))));
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  for (;;) {
    // A reader gives so many at a time, and none when it is done.
    const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
    if (some.length === 0) return;
    for (const inner of some) await collectEntry(inner, `${path}/${inner.name}`, picked);
  }
}

function isFile(entry: FileSystemEntry): entry is FileSystemFileEntry {
  return entry.isFile;
}

function toPicked(path: string, file: File): PickedFile {
  const slash = path.indexOf('/');
  return slash < 0
    ? { path, top: '', file }
    : { path: path.slice(slash + 1), top: path.slice(0, slash), file };
}

export function topFolderOf(files: readonly PickedFile[]): string {
  return files.find(({ top }) => top !== '')?.top ?? '';
}

/** Sends all files, a few at a time; stops at the first that fails. */
export async function uploadAll(
  intake: string,
  files: readonly PickedFile[],
  onProgress: (done: number) => void,
): Promise<void> {
  let next = 0;
  let done = 0;
  const worker = async (): Promise<void> => {
    for (let picked = files[next++]; picked; picked = files[next++]) {
      await upload(`/api/intakes/${intake}/files`, { path: picked.path }, picked.file);
      onProgress(++done);
    }
  };
  await Promise.all(Array.from({ length: PARALLEL_UPLOADS }, worker));
}
