import {
  PLAIN_DERIVATION,
  type CarryOverPlan,
  type CarryOverRequest,
  type CarryOverResult,
  type DeriveRequest,
} from '@stem-trace/contract';
import { known, numberKey, type Lens } from '@stem-trace/core';
import type { DataSource, EntityManager } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { flag, json, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import { refuseCircles } from '../store/circles.js';
import { lockItems, type StoreTurn } from '../store/turn.js';
import { record } from '../trail/record.js';
import { targetsOf, type Copy, type Target } from './carry-targets.js';
import { PlannedUses } from './planned-uses.js';
import { linksAround, type DerivationPlanner, type Prepared } from './planner.service.js';
import { planFiles, sayVersion, type FileChange, type VariantFiles } from './variant-files.js';
import { writeCarried, type ChangedFile } from './variant-writer.js';

const NEWEST: Lens = { kind: 'newest' };

interface Worked {
  readonly prepared: Prepared;
  readonly variant: DescribedVersion;
  readonly derivationId: string;
  readonly copies: ReadonlyMap<string, Copy>;
  readonly targets: readonly Target[];
}

/**
 * Carries later changes of an origin over into its variant: the derivation is planned once more, with what was decided then and
 * the copies that there are, on the origin as it is now; what comes of a copy whose origin changed becomes its next version.
 */
export class CarryOverService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly planner: DerivationPlanner,
    private readonly changeFile: (change: FileChange) => Promise<ChangedFile>,
  ) {}

  /** @throws ProblemError INPUT_INVALID where the item was not derived; as `DerivationPlanner.prepare` */
  async plan(item: string, person: Person): Promise<CarryOverPlan> {
    const { prepared, variant, targets } = await this.work(
      { item, decided: [] },
      person,
      this.database.manager,
    );
    return { variant: variant.number, origin: prepared.origin.number, rows: targets.map(({ row }) => row) };
  }

  /** All that can be carried over and is not left for later, or nothing. @throws ProblemError as `plan`, DERIVATION_CLASH */
  async carryOut(request: CarryOverRequest, person: Person, at: Date): Promise<CarryOverResult> {
    const files = new Map<string, ChangedFile>();
    for (;;) {
      const outcome = await this.turn.take((manager) =>
        this.tryOut(manager, { ...request, person, at, files }),
      );
      if ('result' in outcome) return outcome.result;
      for (const change of outcome.missing) files.set(sayChange(change), await this.changeFile(change));
    }
  }

  private async tryOut(
    manager: EntityManager,
    {
      item,
      leave,
      decided,
      person,
      at,
      files,
    }: CarryOverRequest & {
      readonly person: Person;
      readonly at: Date;
      readonly files: ReadonlyMap<string, ChangedFile>;
    },
  ): Promise<{ readonly result: CarryOverResult } | { readonly missing: readonly FileChange[] }> {
    const worked = await this.work({ item, decided }, person, manager);
    const { prepared, variant, targets } = worked;
    const laid = new Set(leave.map(numberKey));
    const taken = withNeeded(
      prepared,
      targets.filter(
        ({ row, together }) => !row.stops && !laid.has(numberKey(row.number)) && !together?.open.length,
      ),
    );
    const left = targets.flatMap((target) =>
      taken.includes(target) ? [] : [{ number: target.row.number, says: sayLeft(target, laid) }],
    );
    if (taken.length === 0) return { result: { variant: variant.number, done: [], left } };
    const planned = new PlannedUses(prepared);
    // What keeps its own file is made of what it was made of.
    const changed = taken.flatMap(({ made, together }) =>
      together?.file === 'copy' ? [] : planned.of(made),
    );
    const links = await linksAround(manager, changed, { ...prepared, made: prepared.plan.made });
    const plan = { ...prepared.plan, changed };
    const written: VariantFiles = planFiles({
      ...{ plan, links, versions: prepared.versions, linkIds: prepared.linkIds },
      nodes: new Map(prepared.nodes.map((node) => [node.versionId, node])),
    });
    const missing = written.changes.filter((change) => !files.has(sayChange(change)));
    if (missing.length > 0) return { missing };
    await lockItems(
      manager,
      taken.flatMap(({ copy }) => copy?.itemId ?? []),
    );
    const done = await writeCarried(manager, {
      ...{ ...prepared, plan, links, files: written, derivationId: worked.derivationId },
      changed: new Map(
        written.changes.map((change) => [sayVersion(change), known(files, sayChange(change))]),
      ),
      taken: taken.map(({ made, copy, together }) => ({ made, itemId: copy?.itemId, together })),
      existing: new Map(
        [...worked.copies].map(([key, { itemId, newest }]) => [key, { itemId, versionId: newest.id }]),
      ),
      own: new Map([...worked.copies].map(([key, { newest }]) => [key, newest])),
      ...{
        author: person,
        at,
        comment: `Carried over from ${prepared.origin.number} ${prepared.origin.label}`,
      },
    });
    await refuseCircles(
      manager,
      done.map(({ itemId }) => itemId),
      'As it would be after carrying over',
    );
    await manager.query(
      `INSERT INTO hold (item_id, person_id, reason) SELECT unnest($1::bigint[]), $2, $3 ON CONFLICT DO NOTHING`,
      [done.map(({ itemId }) => itemId), person.id, `carried over from ${prepared.origin.number}`],
    );
    const labels = await this.catalogue.describe(
      done.map(({ versionId }) => versionId),
      manager,
    );
    await record(manager, [
      {
        ...{ personId: person.id, kind: 'derive' as const, itemId: variant.itemId, at },
        says: `${person.name} carried changes of ${prepared.origin.number} ${prepared.origin.label} over into ${variant.number}, ${done.length} of its items`,
      },
    ]);
    await announce(manager, 'items', 'holds', 'notices');
    return {
      result: {
        variant: variant.number,
        done: done.map(({ versionId }) => {
          const { number, label } = known(labels, versionId);
          return { number, version: label };
        }),
        left,
      },
    };
  }

  private async work(
    { item, decided }: Pick<CarryOverRequest, 'item' | 'decided'>,
    person: Person,
    manager: EntityManager,
  ): Promise<Worked> {
    const asked = await this.catalogue.resolve(item, person, 'change', manager);
    const [derivation] = await readRows(
      manager,
      {
        ...{ id: text, request: json<DeriveRequest>(), lines: json<StoredLine[]>(), origin: text, top: text },
        originPlaceId: text,
      },
      `SELECT oi.place_id AS "originPlaceId", d.id, d.request, d.plan->'lines' AS lines, oi.number AS origin, top.id AS top
       FROM item i JOIN derivation d ON d.id = i.derivation_id JOIN version o ON o.id = d.origin_version_id
       JOIN item oi ON oi.id = o.item_id JOIN item top ON top.derivation_id = d.id
       JOIN version tv ON tv.item_id = top.id AND tv.origin_version_id = d.origin_version_id WHERE i.id = $1 LIMIT 1`,
      [asked.itemId],
    );
    if (derivation && !(await this.rights.of(person, manager)).may('see', derivation.originPlaceId))
      throw new ProblemError(
        'NOT_ALLOWED',
        `You have no access to the item that ${asked.number} was derived from. Nothing was changed.`,
      );
    if (!derivation)
      throw new ProblemError(
        'INPUT_INVALID',
        `${asked.number} was not derived from another item, so that nothing can be carried over.`,
      );
    const copies = await this.copiesOf(manager, derivation);
    const variant = await this.catalogue.newest(derivation.top, manager);
    const request = await requestNow(manager, derivation, copies);
    const own = new Set([...copies.values()].map(({ newest }) => numberKey(newest.number)));
    const prepared = await this.planner.prepare({ ...request, place: variant.place }, person, manager, {
      lens: NEWEST,
      own,
    });
    const rights = await this.rights.of(person, manager);
    return {
      prepared,
      variant,
      derivationId: derivation.id,
      copies,
      targets: await targetsOf(this.catalogue, prepared, copies, { person, rights, decided, manager }),
    };
  }

  /** Copies of a derivation by the keys of its lines. */
  private async copiesOf(
    manager: EntityManager,
    { id, lines }: { readonly id: string; readonly lines: readonly StoredLine[] },
  ): Promise<Map<string, Copy>> {
    const rows = await readRows(
      manager,
      { itemId: text, origin: text, base: text, first: text, hasOwnFile: flag },
      `SELECT i.id AS "itemId", o.item_id AS origin, i.origin_version_id AS base,
              (SELECT number FROM item WHERE id = i.id) AS first,
              n.sha256 <> b.sha256 AS "hasOwnFile"
       FROM item i JOIN version o ON o.id = i.origin_version_id JOIN version n ON n.id = i.newest_version_id
       JOIN LATERAL (SELECT * FROM version WHERE item_id = i.id AND origin_version_id IS NOT NULL ORDER BY ordinal DESC LIMIT 1) b ON true
       WHERE i.derivation_id = $1`,
      [id],
    );
    const newest = new Map(
      (
        await this.catalogue.newestOf(
          rows.map(({ itemId }) => itemId),
          manager,
        )
      ).map((version) => [version.itemId, version]),
    );
    const byOrigin = new Map<string, (typeof rows)[number][]>();
    for (const row of rows) byOrigin.set(row.origin, [...(byOrigin.get(row.origin) ?? []), row]);
    const copies = new Map<string, Copy>();
    for (const [origin, own] of byOrigin) {
      for (const row of own) {
        const line = lines.find(({ itemId, copy }) => itemId === origin && copy?.number === row.first);
        const key = own.length === 1 ? origin : (line?.key ?? origin);
        const version = newest.get(row.itemId);
        if (version)
          copies.set(key, {
            itemId: row.itemId,
            base: row.base,
            hasOwnFile: row.hasOwnFile,
            newest: version,
          });
      }
    }
    return copies;
  }
}

interface StoredLine {
  readonly key?: string;
  readonly itemId: string;
  readonly number: string;
  readonly copy?: { readonly number: string };
}

/** What was decided then, about what there is now; the copies keep their numbers and names. */
async function requestNow(
  manager: EntityManager,
  {
    request,
    lines,
    origin,
  }: { readonly request: DeriveRequest; readonly lines: readonly StoredLine[]; readonly origin: string },
  copies: ReadonlyMap<string, Copy>,
): Promise<DeriveRequest> {
  // Items that were decided about may be called otherwise by now.
  const numbers = new Map(
    (
      await readRows(
        manager,
        { id: text, number: text },
        'SELECT id, number FROM item WHERE id = ANY($1::bigint[])',
        [[...new Set(lines.map(({ itemId }) => itemId))]],
      )
    ).map(({ id, number }) => [id, number]),
  );
  const byNumber = new Map(
    lines.map((line) => [numberKey(line.number), numbers.get(line.itemId) ?? line.number]),
  );
  const now = (number: string): string => byNumber.get(numberKey(number)) ?? number;
  const renamed = Object.fromEntries(
    [...copies].map(([key, { newest }]) => {
      const [itemId = '', further] = key.split('#');
      const number = numbers.get(itemId) ?? '';
      return [
        further === undefined ? number : `${number} #${further}`,
        { number: newest.number, name: newest.name },
      ];
    }),
  );
  const all: DeriveRequest = { ...PLAIN_DERIVATION, ...request };
  const isThere = await standing(manager, origin);
  return {
    ...all,
    item: origin,
    alsoCopy: all.alsoCopy.map(now).filter(isThere),
    share: all.share.map(now).filter(isThere),
    omit: all.omit.map(now).filter(isThere),
    swap: all.swap.map(({ from, to }) => ({ from: now(from), to })).filter(({ from }) => isThere(from)),
    uses: all.uses
      .map((use) => ({ ...use, chain: use.chain.map(now) }))
      .filter(({ chain }) => chain.every(isThere)),
    added: all.added
      .map((add) => ({ ...add, in: add.in.map(now) }))
      .filter(({ in: chain }) => chain.every(isThere)),
    // Values were given once; what people made of them since stays.
    values: [],
    renamed: Object.fromEntries(
      Object.entries(renamed).filter(([line]) => isThere(line.replace(/ #[0-9]+$/, ''))),
    ),
    key: '',
  };
}

/** Whether a number stands anywhere below an origin now, drawings included. */
async function standing(manager: EntityManager, origin: string): Promise<(number: string) => boolean> {
  const rows = await readRows(
    manager,
    { key: text },
    `WITH RECURSIVE below AS (
       SELECT id FROM item WHERE number_key = $1
       UNION SELECT l.target_item_id FROM below b JOIN item i ON i.id = b.id JOIN link l ON l.version_id = i.newest_version_id
       WHERE l.target_item_id IS NOT NULL AND l.relation IN ('component', 'draws on')
     ), beside AS (
       SELECT i.id FROM below b JOIN link l ON l.target_item_id = b.id AND l.relation = 'depicts'
       JOIN item i ON i.newest_version_id = l.version_id
     ), carried AS (
       SELECT v.item_id AS id FROM below b JOIN item i ON i.id = b.id JOIN version v ON v.carrier_version_id = i.newest_version_id
     )
     SELECT i.number_key AS key FROM item i WHERE i.id IN (SELECT id FROM below UNION SELECT id FROM beside UNION SELECT id FROM carried)`,
    [numberKey(origin)],
  );
  const keys = new Set(rows.map(({ key }) => key));
  return (number) => keys.has(numberKey(number));
}

/** What is taken, and of what the origin got since only what something that is taken uses. */
function withNeeded(prepared: Prepared, targets: readonly Target[]): Target[] {
  const byKey = new Map(targets.map((target) => [sayVersion(target.made), target]));
  const nodeOf = new Map(prepared.nodes.map((node) => [node.versionId, node]));
  const planned = new PlannedUses(prepared);
  const taken = new Set(targets.filter(({ row }) => row.kind !== 'new'));
  const waiting = [...taken];
  for (let target = waiting.pop(); target; target = waiting.pop()) {
    const { uses } = planned.of(target.made);
    const { children = [] } = nodeOf.get(target.made.versionId) ?? {};
    uses.forEach((becomes, at) => {
      for (const each of becomes) {
        const next =
          each.kind === 'copy'
            ? byKey.get(sayVersion({ key: each.key, versionId: children[at] ?? '' }))
            : undefined;
        if (!next || taken.has(next)) continue;
        taken.add(next);
        waiting.push(next);
      }
    });
  }
  return [...taken];
}

function sayLeft({ row: { says, number }, together }: Target, laid: ReadonlySet<string>): string {
  if (laid.has(numberKey(number))) return 'left for later';
  return says || `nobody decided yet whose it is: ${together?.open.join(', ') ?? ''}`;
}

function sayChange({ sha256, storedFileName, edit }: FileChange): string {
  return JSON.stringify([sha256, storedFileName, edit]);
}
