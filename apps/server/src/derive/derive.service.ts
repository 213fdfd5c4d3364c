import { Injectable } from '@nestjs/common';
import type { DerivePreview, DeriveProposal, DeriveRequest, DeriveResult } from '@stem-trace/contract';
import {
  valueAt,
  explode,
  nameFold,
  numberKey,
  numbersToGive,
  planDerivation,
  RECORDED,
  sayReason,
  type Decision,
  type DerivationLine,
  type DerivationPlan,
  type Lens,
  type OriginNode,
  type StructureGraph,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { RightsService, type Rights } from '../access/rights.service.js';
import { flag, json, readRow, readRows, text } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { record, recordQuietly } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { StoreTurn } from '../store/turn.js';
import { StructureLoader } from '../structure/structure-loader.js';
import { nextNumbers } from '../properties/next-numbers.js';
import { proposeNames, rulesOf } from './proposal.js';
import { writeVariant } from './variant-writer.js';

interface Prepared {
  readonly origin: DescribedVersion;
  readonly place: string;
  readonly graph: StructureGraph;
  readonly versions: ReadonlyMap<string, DescribedVersion>;
  readonly nodes: readonly OriginNode[];
  readonly plan: DerivationPlan;
}

const NEWEST: Lens = { kind: 'newest' };

/** Everything as it is proposed. */
const PLAIN_REQUEST: Omit<DeriveRequest, 'item'> = {
  copy: 'proposed',
  alsoCopy: [],
  share: [],
  replace: [],
  prefix: '',
  rules: [],
  scheme: '',
  renamed: {},
  place: '',
  key: '',
};

/** Makes variants: plans them, and writes them in one transaction. */
@Injectable()
export class DeriveService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
    private readonly rights: RightsService,
  ) {}

  async preview(request: DeriveRequest, person: Person): Promise<DerivePreview> {
    const { origin, place, graph, versions, plan } = await this.prepare(
      request,
      person,
      this.database.manager,
    );
    const byItem = new Map([...versions.values()].map((version) => [version.itemId, version]));
    return {
      origin: { number: origin.number, name: origin.name, version: origin.label },
      place,
      ready: plan.ready,
      lines: plan.lines.map((line) => lineView(line, byItem.get(line.itemId))),
      tree: [
        { level: 0, number: origin.number, quantity: 1, gap: false },
        ...explode(graph, origin.id, { lens: RECORDED }).map((row) => ({
          level: row.level,
          number: versions.get(row.version?.id ?? '')?.number ?? row.link.targetText,
          quantity: row.quantity,
          gap: row.version === undefined,
        })),
      ],
    };
  }

  /**
   * What the copies that are proposed might be called: like those of the last derivation of the same stem, else by the
   * number scheme that the origin's number is of, else with a count behind the number.
   */
  async propose({ item }: { readonly item: string }, person: Person): Promise<DeriveProposal> {
    const { manager } = this.database;
    const { origin, plan } = await this.prepare({ ...PLAIN_REQUEST, item }, person, manager);
    const numbers = plan.lines.flatMap(({ number, decision }) => (decision === 'copy' ? [number] : []));
    const hidden = (await this.rights.of(person, manager)).placesWithout('see');
    return proposeNames(manager, { origin, numbers, hidden });
  }

  /**
   * @param at the time that the copies get
   * @throws ProblemError DERIVATION_CLASH where something stands in the way; nothing is written then
   */
  async carryOutAt(request: DeriveRequest, person: Person, at: Date): Promise<DeriveResult> {
    return this.turn.take(async (manager) => {
      const before = await resultOf(manager, request, person);
      if (before) return before;
      const prepared = await this.prepare(request, person, manager);
      (await this.rights.of(person, manager)).require('change', prepared.place);
      refuseClashes(prepared.plan);
      const { origin, plan } = prepared;
      const madeOf = `${origin.number} ${origin.label}`;
      const result: DeriveResult = {
        variant: valueAt(plan.lines, 0).copy?.number ?? '',
        made: plan.lines.flatMap(({ number, copy }) => (copy ? [{ from: number, to: copy.number }] : [])),
        shared: plan.lines.flatMap(({ number, copy }) => (copy ? [] : [number])),
        notes: dragged(plan),
      };
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
        derivationId: derivation.id,
        authorId: person.id,
        at,
        // Whoever sees the variant need not see the origin; its lineage is shown to those who do.
        comment: 'Derived',
      });
      await record(manager, [
        {
          personId: person.id,
          kind: 'derive',
          itemId: origin.itemId,
          says: `${person.name} derived ${result.variant} from ${origin.number} ${origin.label}`,
          tells: `${person.name} derived a variant from ${origin.number} ${origin.label}`,
          detail: { derivation: derivation.id },
          at,
        },
      ]);
      // Each copy has a history that begins with where it came from.
      await recordQuietly(
        manager,
        plan.lines.flatMap(({ itemId, number, copy }) =>
          copy
            ? [
                {
                  personId: person.id,
                  kind: 'derive' as const,
                  itemId: copies.get(itemId) ?? null,
                  says: `${person.name} derived ${copy.number} from ${copy.number === result.variant ? madeOf : `${number}, with ${result.variant}`}`,
                  detail: { derivation: derivation.id },
                  at,
                },
              ]
            : [],
        ),
      );
      return result;
    });
  }

  private async prepare(request: DeriveRequest, person: Person, manager: EntityManager): Promise<Prepared> {
    const origin = await this.catalogue.resolve(request.item, person, 'fetch', manager);
    if (origin.kind === 'bill')
      throw new ProblemError(
        'INPUT_INVALID',
        `${origin.number} is a bill, of which there are no variants. Derive what it is for, and make a bill of the variant in Build.`,
      );
    const rights = await this.rights.of(person, manager);
    if (origin.carrierVersion !== null) {
      const carrier = (await this.catalogue.describe([origin.carrierVersion], manager)).get(
        origin.carrierVersion,
      );
      const isSeen = carrier !== undefined && rights.may('see', carrier.placeId);
      throw new ProblemError(
        'DERIVATION_CLASH',
        isSeen
          ? `${origin.number} lives in the file of ${carrier.number} and cannot be copied without it. Derive ${carrier.number} instead.`
          : `${origin.number} lives in the file of something that you may not see, and cannot be copied without it.`,
      );
    }
    const graph = await this.loader.below(origin.id, RECORDED, { history: false, manager });
    const below = await this.versionsBelow(graph, origin, manager);
    const drawings = await this.loader.drawingsOf(
      [...new Set([...below.values()].map(({ itemId }) => itemId))],
      NEWEST,
      manager,
    );
    // A drawing that may not be fetched stays with the origin, unseen.
    const drawn = [...(await this.catalogue.describe([...drawings.keys()], manager))].filter(
      ([, { placeId }]) => rights.may('fetch', placeId),
    );
    // Drawings draw on others, which are copied or shared with them.
    const drawnOn = await this.loader.below(
      drawn.map(([id]) => id),
      RECORDED,
      { history: false, manager },
    );
    for (const { id } of drawnOn.versions()) graph.add([], drawnOn.linksOf(id));
    graph.add(drawnOn.versions(), []);
    const besides = [...drawnOn.versions()].map(({ id }) => id).filter((id) => !below.has(id));
    const versions = new Map([...below, ...drawn, ...(await this.catalogue.describe(besides, manager))]);
    refuseHidden([...versions.values()], rights, origin);
    const nodes = originNodes(graph, { origin, versions, drawings });
    const place = request.place || origin.place;
    const byNumber = new Map(
      [...versions.values()].map((version) => [numberKey(version.number), version.itemId]),
    );
    const itemOf = (number: string): string => {
      const item = byNumber.get(numberKey(number));
      if (item === undefined)
        throw new ProblemError(
          'INPUT_INVALID',
          `${number} is not part of ${origin.number} ${origin.label}. Nothing was changed.`,
        );
      return item;
    };
    const decisions = new Map<string, Decision>();
    for (const number of request.alsoCopy) decisions.set(itemOf(number), 'copy');
    for (const number of request.share) decisions.set(itemOf(number), 'share');
    const rules = rulesOf(request);
    // No more copies than nodes.
    const spare = request.scheme === '' ? [] : await nextNumbers(manager, request.scheme, nodes.length);
    const renamed = new Map(
      Object.entries(request.renamed).map(([number, names]) => [itemOf(number), names]),
    );
    const plan = planDerivation({
      nodes,
      decisions,
      otherwise: request.copy === 'all' ? 'copy' : request.copy === 'proposed' ? 'propose' : 'share',
      rules,
      spare,
      renamed,
      ...(await this.namesInUse(manager, numbersToGive({ nodes, rules, spare, renamed }), place)),
    });
    return { origin, place, graph, versions, nodes, plan };
  }

  /** Every version of the origin's tree, with what else lives in the same files. */
  private async versionsBelow(
    graph: StructureGraph,
    origin: DescribedVersion,
    manager: EntityManager,
  ): Promise<Map<string, DescribedVersion>> {
    const ids = new Set<string>();
    const waiting = [origin.id];
    for (let id = waiting.pop(); id !== undefined; id = waiting.pop()) {
      if (ids.has(id)) continue;
      ids.add(id);
      const below = graph.linksOf(id).flatMap((link) => link.targetVersion ?? []);
      waiting.push(...below.reverse());
    }
    const all = new Map(
      (await this.catalogue.describeFileContents([...ids], manager)).map((version) => [version.id, version]),
    );
    const ordered = [...ids].flatMap((id) => all.get(id) ?? []);
    return new Map([...ordered, ...all.values()].map((version) => [version.id, version]));
  }

  private async namesInUse(
    manager: EntityManager,
    wanted: readonly string[],
    place: string,
  ): Promise<{ takenNumbers: Set<string>; takenFileNames: Set<string> }> {
    const numbers = await readRows(
      manager,
      { key: text },
      'SELECT number_key AS key FROM item WHERE number_key = ANY($1::text[])',
      [wanted.map(numberKey)],
    );
    const files = await readRows(
      manager,
      { name: text },
      `SELECT i.file_name AS name FROM item i JOIN place p ON p.id = i.place_id WHERE p.path = $1 AND i.file_name <> ''`,
      [place],
    );
    return {
      takenNumbers: new Set(numbers.map(({ key }) => key)),
      takenFileNames: new Set(files.map(({ name }) => nameFold(name))),
    };
  }
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

function originNodes(
  graph: StructureGraph,
  {
    origin,
    versions,
    drawings,
  }: {
    origin: DescribedVersion;
    versions: ReadonlyMap<string, DescribedVersion>;
    /** Items shown, by the drawing's version. */
    drawings: ReadonlyMap<string, readonly string[]>;
  },
): OriginNode[] {
  const ordered = [origin, ...[...versions.values()].filter((version) => version.id !== origin.id)];
  return ordered.map((version) => ({
    versionId: version.id,
    itemId: version.itemId,
    number: version.number,
    name: version.name,
    fileName: version.fileName,
    source: version.facts.source,
    idInFile: version.idInFile,
    ...(version.carrierVersion === null ? {} : { carrierVersion: version.carrierVersion }),
    children: graph.linksOf(version.id).flatMap((link) => link.targetVersion ?? []),
    ...(version.kind === 'drawing' || version.kind === 'document' ? { isPaper: true } : {}),
    ...(drawings.has(version.id) ? { depicts: drawings.get(version.id) ?? [] } : {}),
  }));
}

/** A copy needs everything that it refers to, so that nothing may be out of the asker's sight. */
function refuseHidden(versions: readonly DescribedVersion[], rights: Rights, origin: DescribedVersion): void {
  const hidden = new Set(
    versions.flatMap(({ itemId, placeId }) => (rights.may('fetch', placeId) ? [] : [itemId])),
  ).size;
  if (hidden === 0) return;
  throw new ProblemError(
    'NOT_ALLOWED',
    `${origin.number} ${origin.label} is made of ${hidden} further ${hidden === 1 ? 'item' : 'items'} that you may not fetch. Ask somebody who administers their places, or derive a part of it. Nothing was changed.`,
  );
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

function dragged(plan: DerivationPlan): string[] {
  return plan.lines.flatMap((line) => {
    const { kind } = line.reason;
    return kind === 'contains' || kind === 'livesIn' || kind === 'carries'
      ? [`${line.number} is copied: ${sayReason(line.reason)}`]
      : [];
  });
}

function lineView(
  line: DerivationLine,
  version: DescribedVersion | undefined,
): DerivePreview['lines'][number] {
  return {
    number: line.number,
    name: line.name,
    kind: version?.kind ?? 'part',
    version: version?.label ?? '',
    decision: line.decision,
    reason: sayReason(line.reason),
    forced: line.forced,
    newNumber: line.copy?.number ?? null,
    newName: line.copy?.name ?? null,
    fileName: line.copy?.fileName || null,
    clash: line.clash ?? null,
  };
}
