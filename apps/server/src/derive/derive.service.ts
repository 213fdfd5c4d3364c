import { Injectable } from '@nestjs/common';
import {
  PLAIN_DERIVATION,
  type DerivePreview,
  type DeriveProposal,
  type DeriveRequest,
  type DeriveResult,
  type PlanGround,
} from '@stem-trace/contract';
import {
  known,
  planLines,
  planRows,
  sayReason,
  valueAt,
  type DerivationLine,
  type DerivationPlan,
} from '@stem-trace/core';
import { editStepStructure, StepError } from '@stem-trace/formats';
import { DataSource, type EntityManager } from 'typeorm';
import type { BlobStore } from '../blobs/blob-store.js';
import { keepBlob } from '../blobs/keep-blob.js';
import type { Person } from '../database/entities/person.js';
import { RightsService } from '../access/rights.service.js';
import { flag, json, readRow, readRows, text } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { record, recordQuietly } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { StoreTurn } from '../store/turn.js';
import { StructureLoader } from '../structure/structure-loader.js';
import type { DefinitionsService } from '../properties/definitions.service.js';
import type { SettingsService } from '../settings/settings.service.js';
import { CarryOverService } from './carry-over.service.js';
import { hindrancesOf } from './hindrances.js';
import { DerivationPlanner, type Prepared } from './planner.service.js';
import { proposeNames } from './proposal.js';
import { planFiles, sayVersion, type FileChange, type VariantFiles } from './variant-files.js';
import { writeVariant, type ChangedFile } from './variant-writer.js';

/** How often a derivation is gone over anew because its origin changed meanwhile. */
const TRIES = 5;

/** Has a part in the writing of a variant. */
export type AlsoWritten = (manager: EntityManager, result: DeriveResult) => Promise<void>;

/** Makes variants: plans them, and writes them in one transaction. */
@Injectable()
export class DeriveService {
  private readonly planner: DerivationPlanner;
  /** Later changes of origins, for their variants. */
  readonly carryOvers: CarryOverService;

  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    loader: StructureLoader,
    private readonly rights: RightsService,
    private readonly blobs: BlobStore,
    definitions: DefinitionsService,
    settings: SettingsService,
  ) {
    this.planner = new DerivationPlanner(catalogue, loader, rights, definitions, settings);
    this.carryOvers = new CarryOverService(database, turn, catalogue, rights, this.planner, (change) =>
      this.changeFile(change),
    );
  }

  async preview(request: DeriveRequest, person: Person): Promise<DerivePreview> {
    const { manager } = this.database;
    const prepared = await this.planner.prepare(request, person, manager);
    const { origin, place, versions, plan, nodes, spots, uses } = prepared;
    const shown = new Map(
      [...versions.values()].map(({ itemId, kind, label }) => [itemId, { kind, version: label }]),
    );
    const newest = await newestVersions(manager, [...shown.keys()]);
    const hindrances = hindrancesOf(prepared, { login: person.login, newest });
    return {
      origin: { number: origin.number, name: origin.name, version: origin.label },
      place,
      ready: plan.ready && hindrances.every(({ stops }) => !stops),
      lines: planLines(plan, shown),
      tree: planRows(plan, spots(), uses),
      hindrances: hindrances.toSorted((a, b) => Number(b.stops) - Number(a.stops)),
      configurations: await configurationsIn(
        manager,
        nodes.map(({ versionId }) => versionId),
      ),
    };
  }

  /** What a plan of an origin is worked out from, for whoever decides line by line and cannot wait. */
  ground(request: DeriveRequest, person: Person): Promise<PlanGround> {
    return this.planner.groundOf(request, person, this.database.manager);
  }

  /**
   * What the copies that are proposed might be called: like those of the last derivation of the same stem, else by the
   * number scheme that the origin's number is of, else with a count behind the number.
   */
  async propose({ item }: { readonly item: string }, person: Person): Promise<DeriveProposal> {
    const { manager } = this.database;
    const { origin, plan } = await this.planner.prepare({ ...PLAIN_DERIVATION, item }, person, manager);
    const numbers = plan.lines.flatMap(({ number, decision }) => (decision === 'copy' ? [number] : []));
    const hidden = (await this.rights.of(person, manager)).placesWithout('see');
    return proposeNames(manager, { origin, numbers, hidden });
  }

  /**
   * @param at the time that the copies get
   * @param also what is written together with the variant, or not at all; not called where it was made before
   * @throws ProblemError DERIVATION_CLASH where something stands in the way; nothing is written then
   */
  async carryOutAt(
    request: DeriveRequest,
    person: Person,
    at: Date,
    also: AlsoWritten = () => Promise.resolve(),
  ): Promise<DeriveResult> {
    const files = new Map<string, ChangedFile>();
    for (let tries = 0; tries < TRIES; tries++) {
      const outcome = await this.turn.take((manager) =>
        this.tryOut(manager, { request, person, at, files, also }),
      );
      if ('result' in outcome) return outcome.result;
      // Files are changed while nobody waits; if the tree has changed by then, it is gone over once more.
      for (const change of outcome.missing) files.set(sayChange(change), await this.changeFile(change));
    }
    throw new ProblemError(
      'BUSY',
      'What the variant is made of changes faster than its files can be written. Nothing was made; try again in a minute.',
    );
  }

  /** Carries a derivation out where all the files that it needs are there already, else says which are not. */
  private async tryOut(
    manager: EntityManager,
    {
      request,
      person,
      at,
      files,
      also,
    }: {
      readonly request: DeriveRequest;
      readonly person: Person;
      readonly at: Date;
      readonly files: ReadonlyMap<string, ChangedFile>;
      readonly also: AlsoWritten;
    },
  ): Promise<{ readonly result: DeriveResult } | { readonly missing: readonly FileChange[] }> {
    const before = await resultOf(manager, request, person);
    if (before) return { result: before };
    const prepared = await this.planner.prepare(request, person, manager);
    (await this.rights.of(person, manager)).require('change', prepared.place);
    refuseClashes(prepared.plan);
    refuseHindrances(prepared, person);
    const written = filesOf(prepared);
    const missing = written.changes.filter((change) => !files.has(sayChange(change)));
    if (missing.length > 0) return { missing };
    const changed = new Map(
      written.changes.map((change) => [sayVersion(change), known(files, sayChange(change))]),
    );
    const result = await write(manager, { prepared, person, at, written, changed });
    await also(manager, result);
    return { result };
  }

  /** Changes the structure that a file states, and keeps it. */
  private async changeFile({ sha256, storedFileName, edit }: FileChange): Promise<ChangedFile> {
    try {
      const { bytes, externals } = editStepStructure(await this.blobs.read(sha256), storedFileName, edit);
      const stored = await keepBlob(this.database, this.blobs, bytes);
      return { sha256: stored.sha256, externals };
    } catch (error) {
      if (!(error instanceof StepError)) throw error;
      throw new ProblemError(
        'DERIVATION_CLASH',
        `The variant was not made: ${storedFileName} cannot be given another structure. ${error.message}. Share the assembly that it is of, or change it in the design program.`,
      );
    }
  }
}

function filesOf({ plan, versions, links, nodes, linkIds }: Prepared): VariantFiles {
  return planFiles({
    ...{ plan, versions, links, linkIds },
    nodes: new Map(nodes.map((node) => [node.versionId, node])),
  });
}

/** The same file changed in the same way is the same. */
function sayChange({ sha256, storedFileName, edit }: FileChange): string {
  return JSON.stringify([sha256, storedFileName, edit]);
}

/** Writes what was prepared. @returns what came of it */
async function write(
  manager: EntityManager,
  {
    prepared,
    person,
    at,
    written,
    changed,
  }: {
    readonly prepared: Prepared;
    readonly person: Person;
    readonly at: Date;
    readonly written: VariantFiles;
    readonly changed: ReadonlyMap<string, ChangedFile>;
  },
): Promise<DeriveResult> {
  const { request, origin, plan } = prepared;
  const madeOf = `${origin.number} ${origin.label}`;
  const result = resultFrom(plan);
  const derivation = await readRow(
    manager,
    { id: text },
    `INSERT INTO derivation (request_key, request, origin_version_id, plan, result, created_by, created_at)
     VALUES (nullif($1, ''), $2, $3, $4, $5, $6, $7) RETURNING id`,
    [
      request.key,
      JSON.stringify(request),
      origin.id,
      JSON.stringify(plan),
      JSON.stringify(result),
      person.id,
      at,
    ],
  );
  const copies = await writeVariant(manager, {
    ...prepared,
    files: written,
    changed,
    derivationId: derivation.id,
    author: person,
    at,
    // Whoever sees the variant need not see the origin; its lineage is shown to those who do.
    comment: 'Derived',
  });
  await record(manager, [
    {
      personId: person.id,
      kind: 'derive',
      itemId: origin.itemId,
      says: `${person.name} derived ${result.variant} from ${madeOf}`,
      tells: `${person.name} derived a variant from ${madeOf}`,
      detail: { derivation: derivation.id },
      at,
    },
  ]);
  // Each copy has a history that begins with where it came from.
  await recordQuietly(
    manager,
    plan.lines.flatMap(({ key, number, copy }) =>
      copy
        ? [
            {
              personId: person.id,
              kind: 'derive' as const,
              itemId: copies.get(key) ?? null,
              says: `${person.name} derived ${copy.number} from ${copy.number === result.variant ? madeOf : `${number}, with ${result.variant}`}`,
              detail: { derivation: derivation.id },
              at,
            },
          ]
        : [],
    ),
  );
  return result;
}

function resultFrom(plan: DerivationPlan): DeriveResult {
  const numbersOf = (decision: DerivationLine['decision']): string[] =>
    plan.lines.flatMap((line) => (line.decision === decision ? [line.number] : []));
  const swaps = plan.lines.flatMap(({ number, to }) => (to ? [{ from: number, to: to.number }] : []));
  return {
    variant: valueAt(plan.lines, 0).copy?.number ?? '',
    made: plan.lines.flatMap(({ number, copy }) => (copy ? [{ from: number, to: copy.number }] : [])),
    shared: numbersOf('share'),
    omitted: numbersOf('omit'),
    swapped: swaps,
    notes: dragged(plan),
  };
}

/**
 * What came of a request that was sent before.
 *
 * @throws ProblemError KEY_USED where another request had the key
 */
async function resultOf(
  manager: EntityManager,
  request: DeriveRequest,
  person: Person,
): Promise<DeriveResult | undefined> {
  if (request.key === '') return undefined;
  const [row] = await readRows(
    manager,
    { result: json<DeriveResult>(), isSame: flag, isMine: flag },
    `SELECT result, coalesce(request = $2::jsonb, true) AS "isSame", created_by = $3 AS "isMine"
     FROM derivation WHERE request_key = $1`,
    [request.key, JSON.stringify(request), person.id],
  );
  // What came of another's request is theirs to tell.
  if (row && !row.isMine)
    throw new ProblemError(
      'KEY_USED',
      `The key '${request.key}' was used before. Nothing was changed; send this with a key of its own.`,
    );
  if (row && !row.isSame)
    throw new ProblemError(
      'KEY_USED',
      `The key '${request.key}' was sent before with another request, of which ${row.result.variant} came. Nothing was changed; send this one with a key of its own.`,
    );
  return row?.result;
}

function refuseClashes(plan: DerivationPlan): void {
  const clashes = plan.lines.flatMap((line) =>
    line.clash === undefined ? [] : [`${line.number}: ${line.clash.says}`],
  );
  if (clashes.length === 0) return;
  const shown = clashes.slice(0, 5).join('; ');
  throw new ProblemError(
    'DERIVATION_CLASH',
    `The variant was not made. ${shown}${clashes.length > 5 ? `; and ${clashes.length - 5} more` : ''}.`,
    clashes,
  );
}

/** What nothing can be made with, though no line is in the way. */
function refuseHindrances(prepared: Prepared, { login }: Person): void {
  const stops = hindrancesOf(prepared, { login, newest: new Map() }).filter(
    ({ stops: isInTheWay }) => isInTheWay,
  );
  if (stops.length === 0) return;
  throw new ProblemError(
    'DERIVATION_CLASH',
    `The variant was not made. ${stops.map(({ says, help, numbers }) => `${says} (${numbers.slice(0, 5).join(', ')}). ${help}`).join(' ')}`,
  );
}

function dragged(plan: DerivationPlan): string[] {
  return plan.lines.flatMap(({ number, copy, reason }) => {
    const { kind } = reason;
    if (kind === 'apart') return [`${number} is copied once more as ${copy?.number}: ${sayReason(reason)}`];
    return kind === 'contains' || kind === 'livesIn' || kind === 'carries' || kind === 'changes'
      ? [`${number} is copied: ${sayReason(reason)}`]
      : [];
  });
}

async function newestVersions(
  manager: EntityManager,
  itemIds: readonly string[],
): Promise<Map<string, string>> {
  const rows = await readRows(
    manager,
    { id: text, newest: text },
    'SELECT id, newest_version_id AS newest FROM item WHERE id = ANY($1::bigint[])',
    [itemIds],
  );
  return new Map(rows.map(({ id, newest }) => [id, newest]));
}

async function configurationsIn(manager: EntityManager, versionIds: readonly string[]): Promise<string[]> {
  const rows = await readRows(
    manager,
    { name: text },
    `SELECT DISTINCT unnest(configurations) AS name FROM link WHERE version_id = ANY($1::bigint[]) ORDER BY name`,
    [versionIds],
  );
  return rows.map(({ name }) => name);
}
