import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { DemoPerson } from '@stem-trace/contract';

export interface DemoHistory {
  readonly place: string;
  readonly people: readonly (DemoPerson & { readonly initials: string })[];
  readonly history: readonly DemoStep[];
}

export interface DemoStep {
  readonly folder: string;
  readonly at: string;
  readonly by: string;
  readonly comment: string;
  /** Items whose newest revision is released right after. */
  readonly release: 'all' | readonly string[];
}

/** The made-up people of the demo data, whose passwords the sign-in page tells. */
export class DemoPeople {
  constructor(private readonly folder: string | undefined) {}

  async list(): Promise<readonly DemoPerson[]> {
    if (this.folder === undefined) return [];
    const { people } = await readHistory(this.folder);
    return people.map(({ login, name, role, password }) => ({ login, name, role, password }));
  }
}

export async function readHistory(folder: string): Promise<DemoHistory> {
  return JSON.parse(await readFile(join(folder, 'models/history.json'), 'utf8')) as DemoHistory;
}
