import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Grant, ItemClass, NumberScheme, PropertyDefinition } from '@stem-trace/core';
import type { DemoPerson, DeriveRequest } from '@stem-trace/contract';

export interface DemoHistory {
  readonly place: string;
  readonly people: readonly (DemoPerson & { readonly initials: string })[];
  readonly definitions: readonly PropertyDefinition[];
  /** `items` are the beginnings of the numbers of those that belong to the class. */
  readonly classes: readonly (ItemClass & { readonly items: readonly string[] })[];
  readonly schemes: readonly (NumberScheme & { readonly class: string })[];
  readonly history: readonly DemoStep[];
}

interface Happened {
  readonly at: string;
  /** Login. */
  readonly by: string;
}

export interface DemoFolder extends Happened {
  readonly kind: 'bring in';
  readonly folder: string;
  readonly comment: string;
  /** That of the company where absent. */
  readonly place?: string;
  /** Items whose newest revision is released right after. */
  readonly release: 'all' | readonly string[];
}

export interface DemoDerivation extends Happened {
  readonly kind: 'derive';
  readonly item: string;
  readonly place: string;
  readonly share: readonly string[];
  readonly replace: DeriveRequest['replace'];
}

export interface DemoHold extends Happened {
  readonly kind: 'hold';
  readonly items: readonly string[];
  readonly reason: string;
}

export interface DemoWithdrawal extends Happened {
  readonly kind: 'withdraw';
  readonly item: string;
  readonly reason: string;
}

export interface DemoShutPlace extends Happened {
  readonly kind: 'shut';
  readonly place: string;
  readonly grants: readonly Grant[];
}

export type DemoStep = DemoFolder | DemoDerivation | DemoHold | DemoWithdrawal | DemoShutPlace;

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
