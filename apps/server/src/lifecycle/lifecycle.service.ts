import { Injectable } from '@nestjs/common';
import type {
  CheckRow,
  OfferedStep,
  State,
  StepAnswer,
  StepPreview,
  StepRequest,
} from '@stem-trace/contract';
import {
  countsAsReleased,
  rightFor,
  sayDone,
  stepNamed,
  stepsNow,
  type DiagramStep,
  type StateBook,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { AccessService } from '../access/access.service.js';
import { RightsService, type Rights } from '../access/rights.service.js';
import { isInLane, isReleased, isStructure } from '../database/conditions.js';
import { number, orNull, readRow, readRows, text, timeText, word } from '../database/read-rows.js';
import { stateBook } from '../database/state-book.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { SignaturesService, type Content } from '../signatures/signatures.service.js';
import type { ReleasedBelow } from '../store/baseline.js';
import { LABEL } from '../store/item-row.js';
import { offeredAt, standingsOf, takerAt } from '../store/standings.js';
import { CatalogueService, notAllowed, type DescribedVersion } from '../store/catalogue.service.js';
import { record, type Happening } from '../trail/record.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { ProblemError } from '../problems/problem.js';
import { refuseCircles } from '../store/circles.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { ReleasesService } from '../build/releases.service.js';
import { WorkHost } from '../work/work-host.js';
import {
  belowOf,
  judge,
  overWhat,
  releases,
  type Judged,
  type StepGround,
  type StepTarget,
} from './step-ground.js';
import { openSheet, sheetAddress } from './open-sheet.js';
import { ToldOfSteps } from './told.js';

/** More are counted no further: the point has been made. */
const MOST_DRAFTS = 500;
const MOST_WAITING = 1000;

/** What becomes of each, once it is known what goes and what does not. */
interface Settled {
  readonly refused: readonly Extract<Judged, { kind: 'refused' }>[];
  readonly going: readonly Exclude<Judged, { kind: 'refused' }>[];
  readonly below: ReleasedBelow;
  readonly contents: ReadonlyMap<string, Content>;
  readonly book: StateBook;
}

/** Moves items from state to state: all of those named, or none, or those that can. */
@Injectable()
export class LifecycleService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly definitions: DefinitionsService,
    private readonly work: WorkHost,
    private readonly releases: ReleasesService,
    private readonly signatures: SignaturesService,
    private readonly access: AccessService,
  ) {}

  /**
   * @param isInBrowser whether a person asks, not a program that acts for one: only people sign
   * @throws ProblemError STEP_REFUSED where one of them cannot take it; nothing was changed then
   */
  async take(request: StepRequest, person: Person, isInBrowser: boolean): Promise<StepAnswer> {
    const first = await this.targetsOf(this.database.manager, request, person);
    if (!request.leavesOut) refuseWithoutRight(first, await this.rights.of(person));
    const book = await stateBook(this.database);
    if (first.some(({ step }) => step && releases(step, book))) await this.refuseUnready(first, person);
    // The password is looked at before anybody waits for the turn.
    if (first.some(({ step }) => step?.signatures)) await this.confirm(request, person, isInBrowser);
    return this.turn.takeForStep(async (manager) => {
      await lockItems(
        manager,
        first.map(({ item }) => item.itemId),
      );
      const settled = await this.settle(
        manager,
        await this.targetsOf(manager, request, person),
        request,
        person,
      );
      const refused = settled.refused.map(({ why }) => why);
      if (refused.length > 0 && (!request.leavesOut || settled.going.length === 0))
        throw new ProblemError('STEP_REFUSED', `${refused.join('; ')}. Nothing was changed.`, refused);
      const sheet = await this.carryOut(manager, settled, request, person);
      await announce(manager, 'items', 'notices');
      return answerOf(settled, sheet);
    });
  }

  /**
   * Sends items on to wherever somebody decides about them, by the step that all of their lifecycles have for that.
   *
   * @throws ProblemError STEP_REFUSED where there is none, or one of them cannot take it
   */
  async sendOn(items: readonly string[], reason: string, person: Person): Promise<StepAnswer> {
    const book = await stateBook(this.database);
    const step = (await this.offered(items, person)).find(({ to }) => book.get(to)?.lane === 'under check');
    if (!step)
      throw new ProblemError(
        'STEP_REFUSED',
        'No step leads from where all of these are to a check. Send them on one by one.',
      );
    return this.take({ items, step: step.name, reason }, person, false);
  }

  private async confirm(
    { password, zone }: StepRequest,
    person: Person,
    isInBrowser: boolean,
  ): Promise<void> {
    if (!isInBrowser)
      throw new ProblemError(
        'STEP_REFUSED',
        'This step is signed, and only a person signs: in the browser, with the password. Nothing was changed.',
      );
    if (!password || !zone)
      throw new ProblemError(
        'INPUT_INVALID',
        'This step is signed: give your password again. Nothing was changed.',
      );
    if (!isTimeZone(zone))
      throw new ProblemError('INPUT_INVALID', `${zone} is no time zone. Nothing was changed.`);
    await this.access.confirm(person, password);
  }

  /**
   * What a step would do, before it does: what would be refused and why, what below is not released yet, and how many are
   * told.
   */
  async preview(request: StepRequest, person: Person): Promise<StepPreview> {
    const { manager } = this.database;
    const targets = await this.targetsOf(manager, request, person);
    // A reason is asked for with the step itself.
    const given = { ...request, reason: request.reason === '' ? 'asked for later' : request.reason };
    const { refused, going, book } = await this.settle(manager, targets, given, person);
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const items = targets.map(({ item }) => item);
    const isRelease = targets.some(({ step }) => step && releases(step, book));
    const drafts = isRelease ? await draftsBelow(manager, items, hidden) : [];
    return {
      items: (request.leavesOut ? going.map(({ target }) => target.item) : items).map(
        ({ number: own, label }) => ({
          number: own,
          version: label,
        }),
      ),
      refused: refused.map(({ why }) => why),
      signatures: Math.max(0, ...targets.map(({ step }) => step?.signatures?.count ?? 0)),
      drafts: drafts.map(({ id: _, ...draft }) => draft),
      users: await usersOf(manager, items, hidden),
    };
  }

  /** Steps that somebody may take with all of several items, in the order of the first one's lifecycle. */
  async offered(references: readonly string[], person: Person): Promise<OfferedStep[]> {
    const { manager } = this.database;
    const rights = await this.rights.of(person);
    const named = await this.catalogue.resolveAll(references, person);
    const items = await this.catalogue.newestOf([...new Set(named.map(({ itemId }) => itemId))], manager);
    const standings = await standingsOf(manager, items);
    const [first = [], ...others] = items.map((item) => {
      const at = standings.get(item.itemId);
      return at ? offeredAt(at, takerAt(item.placeId, person, rights)) : [];
    });
    return first.filter(({ name }) => others.every((each) => each.some((other) => other.name === name)));
  }

  /** What waits for somebody's decision, the longest waiting first. */
  async waitingFor(person: Person): Promise<CheckRow[]> {
    const rights = await this.rights.of(person);
    const rows = await readRows<CheckRow & { id: string }>(
      this.database,
      {
        ...{ id: text, number: text, name: text, version: text, sheet: orNull(text) },
        ...{ sentBy: text, sentAt: timeText, reason: text },
      },
      `SELECT i.id, i.number, i.name, ${LABEL} AS version, p.name AS "sentBy",
              (SELECT max(s.sheet_id)::text FROM check_sheet_item s WHERE s.item_id = i.id AND s.version_id = v.id) AS sheet, e.at AS "sentAt", coalesce(e.detail->>'reason', '') AS reason
       FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       JOIN LATERAL (
         SELECT person_id, at, detail FROM event WHERE item_id = i.id AND kind = 'step' AND detail->>'to' = i.state
         ORDER BY id DESC LIMIT 1) e ON true
       JOIN person p ON p.id = e.person_id
       WHERE ${isInLane('under check', 'i')} AND i.place_id <> ALL($1::bigint[]) ORDER BY e.at, i.number_key LIMIT ${MOST_WAITING}`,
      [rights.placesWithout('release')],
    );
    const { manager } = this.database;
    const items = await this.catalogue.newestOf(
      rows.map(({ id }) => id),
      manager,
    );
    const standings = await standingsOf(manager, items);
    const mine = new Set(
      items.flatMap(({ itemId, placeId }) => {
        const at = standings.get(itemId);
        const steps = at
          ? stepsNow(at.diagram, at.standing, takerAt(placeId, person, rights), at.subject)
          : [];
        return at && steps.some((step) => rightFor(at.diagram, step) === 'release') ? itemId : [];
      }),
    );
    return rows.flatMap(({ id, ...row }) => (mine.has(id) ? row : []));
  }

  /** What is named, and on demand everything below it that does not count as released. */
  private async targetsOf(
    manager: EntityManager,
    { items: references, step: name, below }: StepRequest,
    person: Person,
  ): Promise<StepTarget[]> {
    const rights = await this.rights.of(person, manager);
    const named = await this.catalogue.resolveAll(references, person, 'see', manager);
    const ids = new Set(named.map(({ itemId }) => itemId));
    const own = await this.catalogue.newestOf([...ids], manager);
    const drafts = below ? await draftsBelow(manager, own, rights.placesWithout('see')) : [];
    const more = drafts.map(({ id }) => id).filter((id) => !ids.has(id));
    const all = [...own, ...(more.length > 0 ? await this.catalogue.newestOf(more, manager) : [])];
    const standings = await standingsOf(manager, all);
    return all.flatMap((item): StepTarget[] => {
      const at = standings.get(item.itemId);
      if (!at) return [];
      return [{ item, at, step: stepNamed(at.diagram, name), by: takerAt(item.placeId, person, rights) }];
    });
  }

  /** Judges until what is left stands together: what is left out may be what something else stands on. */
  private async settle(
    manager: EntityManager,
    targets: readonly StepTarget[],
    { step: name, reason, leavesOut = false }: StepRequest,
    person: Person,
  ): Promise<Settled> {
    const book = await stateBook(manager);
    const rights = await this.rights.of(person, manager);
    const ids = targets.map(({ item }) => item.itemId);
    const classes = await this.definitions.classesOf(ids, manager);
    const out: Settled['refused'][number][] = [];
    for (let left = targets; ;) {
      const below = await belowOf(manager, left, book);
      const signing = left.filter(({ step }) => step?.signatures).map(({ item }) => item.id);
      const contents = await this.signatures.contentsOf(manager, signing, below);
      const ground: StepGround = { book, classes, rights, name, reason, contents };
      const judged = left.map((target) => judge(target, ground));
      const taken = judged.flatMap((each) => (each.kind === 'taken' ? each.target : []));
      const firm = judged.some(({ kind }) => kind === 'signed') ? await belowOf(manager, taken, book) : below;
      const final = judged.map((each) => overWhat(each, each.kind === 'taken' ? firm : below, ground));
      const refused = final.flatMap((each) => (each.kind === 'refused' ? each : []));
      const going = final.flatMap((each) => (each.kind === 'refused' ? [] : each));
      out.push(...refused);
      if (refused.length === 0 || !leavesOut || going.length === 0)
        return { refused: out, going, below, contents, book };
      left = going.map(({ target }) => target);
    }
  }

  private async carryOut(
    manager: EntityManager,
    { going, below, contents, book }: Settled,
    { reason, zone = '' }: StepRequest,
    person: Person,
  ): Promise<string | null> {
    const signing = going.filter(({ step }) => step.signatures);
    const stated = await this.signatures.sign(
      manager,
      signing.map(({ target: { item, at } }) => ({
        ...{ itemId: item.itemId, versionId: item.id, number: item.number, label: item.label },
        ...{ revisionId: at.revisionId, moves: at.moves, state: at.standing.state },
      })),
      {
        step: new Map(signing.map(({ target, step }) => [target.item.itemId, step])),
        ...{ person, zone, contents, at: new Date() },
      },
    );
    const taken = going.filter(({ kind }) => kind === 'taken');
    const sheet = await openSheet(manager, taken, { person, reason, book });
    await manager.query(
      `UPDATE revision SET state = t.state FROM unnest($1::bigint[], $2::text[]) AS t(id, state) WHERE revision.id = t.id`,
      [taken.map(({ target }) => target.at.revisionId), taken.map(({ step }) => step.to)],
    );
    const released = taken.filter(({ step }) => releases(step, book)).map(({ target }) => target.item);
    if (released.length > 0) {
      for (const { target, step } of taken) await supersede(manager, target, step);
      await this.signatures.freeze(
        manager,
        released.map(({ id }) => id),
        { below, contents },
      );
      await this.releases.begin(
        manager,
        released.filter(({ kind }) => kind === 'bill'),
        person,
        reason,
      );
    }
    // Withdrawing, too, changes what the lens Released picks.
    const picksChange = taken.filter(
      ({ target, step }) =>
        countsAsReleased(book, target.item.state) !== releases(step, book) || releases(step, book),
    );
    if (picksChange.length > 0)
      await refuseCircles(
        manager,
        picksChange.map(({ target }) => target.item.itemId),
        'As released',
        'released',
      );
    const happened: Happening[] = [];
    const told = new ToldOfSteps(manager, this.rights);
    for (const each of going) happened.push(await happening(each, { person, reason, stated, told, sheet }));
    await record(manager, sheet === null ? happened : toldOnce(happened));
    return sheet;
  }

  /** @throws ProblemError STEP_REFUSED for bills that are not ready, with why */
  private async refuseUnready(targets: readonly StepTarget[], person: Person): Promise<void> {
    const refused: string[] = [];
    for (const { item } of targets) {
      if (item.kind !== 'bill') continue;
      const { failures } = await this.work.ask('build check', { bill: item.number }, person);
      const [first] = failures;
      if (first)
        refused.push(
          `${item.number} is not ready: ${first.says}${failures.length > 1 ? `, and ${failures.length - 1} more` : ''}`,
        );
    }
    if (refused.length > 0)
      throw new ProblemError(
        'STEP_REFUSED',
        `${refused.join('; ')}. Nothing was changed. Look at what is open in Build.`,
        refused,
      );
  }
}

async function happening(
  { kind, target, step, wanted }: Settled['going'][number],
  {
    person,
    reason,
    stated,
    told,
    sheet,
  }: {
    person: Person;
    reason: string;
    stated: ReadonlyMap<string, string>;
    told: ToldOfSteps;
    sheet: string | null;
  },
): Promise<Happening> {
  const { item } = target;
  const what = `${item.number} ${item.label}`;
  const why = reason === '' ? '' : `: ${reason}`;
  const statement = stated.get(item.itemId);
  const detail = {
    ...{ step: step.name, from: item.state, to: step.to, version: item.label, reason },
    ...(statement === undefined ? {} : { statement }),
  };
  const common = { personId: person.id, itemId: item.itemId, detail };
  if (kind === 'taken')
    return {
      ...common,
      kind: 'step',
      says: `${person.name} ${sayDone(step, what)}${why}`,
      // Where something is checked, that is opened which it is checked on.
      ...(sheet === null ? {} : { address: sheetAddress(sheet) }),
      alsoTell: await told.of(target, step),
    };
  const more = wanted === 1 ? 'one more signature is' : `${wanted} more signatures are`;
  return {
    ...common,
    kind: 'signature',
    says: `${person.name} signed ${what} (${step.name})${why}; ${more} wanted`,
  };
}

function isTimeZone(zone: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: zone }).resolvedOptions().timeZone !== '';
  } catch {
    return false;
  }
}

/** What is sent on to one check sheet is told to those who check once, not for each item; who watches an item is told of that. */
function toldOnce(happened: readonly Happening[]): Happening[] {
  const sent = happened.filter(({ kind }) => kind === 'step');
  const others = sent.length - 1;
  return happened.map((each) => {
    if (others === 0 || each.kind !== 'step') return each;
    if (each !== sent[0]) return { ...each, alsoTell: [] };
    return {
      ...each,
      tells: `${each.says}; and ${others === 1 ? 'another item' : `${others} other items`} with it`,
    };
  });
}

/** @throws ProblemError NOT_ALLOWED of the first where the right is missing that the step asks for */
function refuseWithoutRight(targets: readonly StepTarget[], rights: Rights): void {
  for (const { item, at, step } of targets) {
    const right = step && rightFor(at.diagram, step);
    if (right && !rights.may(right, item.placeId))
      throw new ProblemError('NOT_ALLOWED', notAllowed(item.number, right));
  }
}

function answerOf({ going, refused }: Settled, sheet: string | null): StepAnswer {
  const named = ({ target: { item } }: Settled['going'][number]): { number: string; version: string } => ({
    number: item.number,
    version: item.label,
  });
  return {
    sheet,
    done: going.filter(({ kind }) => kind === 'taken').map(named),
    signed: going.flatMap((each) => (each.kind === 'signed' ? { ...named(each), wanted: each.wanted } : [])),
    refused: refused.map(({ target, why }) => ({ number: target.item.number, reason: why })),
  };
}

/** What the versions record, at any level, that does not count as released. */
async function draftsBelow(
  manager: EntityManager,
  targets: readonly DescribedVersion[],
  hidden: readonly string[],
): Promise<(StepPreview['drafts'][number] & { readonly id: string })[]> {
  return readRows(
    manager,
    { id: text, number: text, name: text, version: text, state: word<State>() },
    `WITH RECURSIVE below(id) AS (
       SELECT unnest($1::bigint[])
       UNION SELECT l.target_version_id FROM below JOIN link l ON l.version_id = below.id
       WHERE l.target_version_id IS NOT NULL AND ${isStructure()}
     )
     SELECT i.id, i.number, i.name, ${LABEL} AS version, r.state FROM below JOIN version v ON v.id = below.id
     JOIN item i ON i.id = v.item_id JOIN revision r ON r.id = v.revision_id
     WHERE v.id <> ALL($1::bigint[]) AND NOT (${isReleased('r')}) AND i.place_id <> ALL($2::bigint[]) ORDER BY i.number_key LIMIT ${MOST_DRAFTS}`,
    [targets.map(({ id }) => id), hidden],
  );
}

/** How many items record one of these. */
async function usersOf(
  manager: EntityManager,
  targets: readonly DescribedVersion[],
  hidden: readonly string[],
): Promise<number> {
  const { users } = await readRow(
    manager,
    { users: number },
    `SELECT count(DISTINCT i.id)::int AS users FROM link l JOIN item i ON i.newest_version_id = l.version_id
     WHERE l.target_item_id = ANY($1::bigint[]) AND i.place_id <> ALL($2::bigint[])`,
    [targets.map(({ itemId }) => itemId), hidden],
  );
  return users;
}

/** A released revision takes the place of those released before it; they go by its lifecycle then, which knows their state. */
async function supersede(
  manager: EntityManager,
  { item, at }: StepTarget,
  { then }: DiagramStep,
): Promise<void> {
  for (const each of then)
    if (each.kind === 'supersede')
      await manager.query(
        `UPDATE revision r SET state = $3, lifecycle_version_id = n.lifecycle_version_id, moves = r.moves + 1
         FROM revision n WHERE n.id = $2 AND r.item_id = $1 AND r.position < n.position AND r.state <> $3 AND ${isReleased('r')}`,
        [item.itemId, at.revisionId, each.to],
      );
}
