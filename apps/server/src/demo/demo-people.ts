import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type {
  ChangeKind,
  ChangeRelation,
  ChangeTask,
  Grant,
  ItemClass,
  NumberScheme,
  PropertyDefinition,
} from '@stem-trace/core';
import type {
  ChangeInput,
  DemoPerson,
  DeriveRequest,
  NewMarkRequest,
  OrderRequest,
} from '@stem-trace/contract';
import type { Recipe } from '@stem-trace/core/recipes';
import { countRows } from '../database/read-rows.js';
import type { DataSource, EntityManager } from 'typeorm';

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

/** A round of checking. */
export interface DemoCheck extends Happened {
  readonly kind: 'check';
  readonly items: readonly string[];
  readonly reason: string;
  /** Absent where it waits. */
  readonly sentBack?: {
    readonly at: string;
    /** Login. */
    readonly by: string;
    readonly reason: string;
    readonly about: string;
    readonly point: string;
    readonly answer: string;
    readonly answeredAt: string;
  };
}

/** A change request or order, with the revisions that it makes and how it went on. */
export interface DemoChange
  extends Happened, Pick<ChangeInput, 'why' | 'urgency' | 'owner' | 'until' | 'costs'> {
  readonly kind: 'change';
  readonly change: ChangeKind;
  readonly number: string;
  readonly name: string;
  readonly lines: readonly {
    readonly relation: ChangeRelation;
    readonly item: string;
    readonly note?: string;
  }[];
  readonly tasks: readonly (ChangeTask & { readonly doneAt?: string })[];
  /** Numbers; of each the newest revision of that time. */
  readonly makes: readonly string[];
  readonly moves: readonly DemoMove[];
}

/** A step as it was taken. */
export interface DemoMove {
  readonly at: string;
  /** Login. */
  readonly by: string;
  readonly step: string;
  /** `sent … back` */
  readonly done: string;
  readonly from: string;
  readonly to: string;
  readonly reason: string;
}

export interface DemoShutPlace extends Happened {
  readonly kind: 'shut';
  readonly place: string;
  readonly grants: readonly Grant[];
}

/** Drawn on the newest version, answered and settled at once. */
export interface DemoMarks extends Happened {
  readonly kind: 'draw on';
  readonly item: string;
  readonly marks: readonly (Omit<NewMarkRequest, 'item'> & {
    readonly answers: readonly { readonly by: string; readonly words: string }[];
    readonly isSettled: boolean;
  })[];
}

/** Files that were issued of what was released at that time. */
export interface DemoIssue extends Happened {
  readonly kind: 'issue';
  readonly items: readonly string[];
  readonly notes: string;
}

/** From when until when a row of an assembly counts. */
export interface DemoEffectivity extends Happened {
  readonly kind: 'counts';
  readonly item: string;
  /** Number of what the row uses. */
  readonly row: string;
  readonly planned: string;
  readonly actual: string;
}

/** A bill is made, or carried over where it is there; what was added is added once. */
export interface DemoBill extends Happened {
  readonly kind: 'bill';
  readonly item: string;
  readonly number: string;
  readonly name: string;
  readonly place: string;
  readonly added: readonly {
    readonly name: string;
    readonly amount: string;
    readonly operation: string;
    readonly note: string;
  }[];
  /** What its release is said to be. */
  readonly notes: string;
}

/** A recipe is made and saved, and wish sheets are fulfilled by it. */
export interface DemoWishes extends Happened {
  readonly kind: 'wishes';
  readonly item: string;
  readonly number: string;
  readonly name: string;
  readonly place: string;
  readonly recipe: Recipe;
  readonly sheets: OrderRequest['sheets'];
}

/** Later changes of its origin come into a variant. */
export interface DemoCarryOver extends Happened {
  readonly kind: 'carry over';
  readonly item: string;
  /** Numbers in the variant that are left for later. */
  readonly leave: readonly string[];
}

/** Properties are set on items that nobody holds. */
export interface DemoSet extends Happened {
  readonly kind: 'set';
  readonly items: readonly string[];
  readonly set: Readonly<Record<string, string>>;
  readonly comment: string;
}

export type DemoStep =
  | DemoCarryOver
  | DemoMarks
  | DemoSet
  | DemoWishes
  | DemoFolder
  | DemoDerivation
  | DemoHold
  | DemoWithdrawal
  | DemoChange
  | DemoCheck
  | DemoShutPlace
  | DemoBill
  | DemoEffectivity
  | DemoIssue;

const IS_DEMO = 'demo store';

/**
 * The made-up people of the demo data, whose passwords the sign-in page tells: in a store that was filled with that data,
 * served with it, and in no other.
 */
export class DemoPeople {
  constructor(
    private readonly folder: string | undefined,
    private readonly database: DataSource,
  ) {}

  async list(): Promise<readonly DemoPerson[]> {
    if (this.folder === undefined || !(await isDemoStore(this.database.manager))) return [];
    const { people } = await readHistory(this.folder);
    return people.map(({ login, name, role, password }) => ({ login, name, role, password }));
  }
}

export async function isDemoStore(manager: EntityManager): Promise<boolean> {
  return (await countRows(manager, 'SELECT 1 FROM setting WHERE name = $1', [IS_DEMO])) > 0;
}

export async function markAsDemo(manager: EntityManager): Promise<void> {
  await manager.query(`INSERT INTO setting (name, value) VALUES ($1, 'true') ON CONFLICT DO NOTHING`, [
    IS_DEMO,
  ]);
}

export async function readHistory(folder: string): Promise<DemoHistory> {
  return JSON.parse(await readFile(join(folder, 'models/history.json'), 'utf8')) as DemoHistory;
}
