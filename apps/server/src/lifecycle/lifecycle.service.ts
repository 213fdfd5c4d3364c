import { Injectable } from '@nestjs/common';
import type { CheckRow, CustodyAnswer, State, StepPreview, StepRequest } from '@stem-trace/contract';
import {
  laneOf,
  attempt,
  LIFECYCLE,
  missingProperties,
  RELEASED_STATES,
  RIGHTS,
  SHIPPED,
  type ItemClass,
  type LifecycleStep,
  type Right,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { isReleased, isStructure } from '../database/conditions.js';
import { number, readRow, readRows, text, timeText, word } from '../database/read-rows.js';
import { LABEL } from '../store/item-row.js';
import { holdsOf } from '../store/holds.js';
import type { Person } from '../database/entities/person.js';
import { announce } from '../feed/feed.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { record } from '../trail/record.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { ProblemError } from '../problems/problem.js';
import { refuseCircles } from '../store/circles.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { ReleasesService } from '../build/releases.service.js';
import { WorkHost } from '../work/work-host.js';

const DID: Readonly<Record<StepRequest['step'], (what: string) => string>> = {
  'ask for check': (what) => `sent ${what} for checking`,
  'take back': (what) => `took ${what} back from checking`,
  release: (what) => `released ${what}`,
  'send back': (what) => `sent ${what} back`,
  withdraw: (what) => `withdrew ${what}`,
};

/** Whether a step is part of changing; every other step decides. */
function isByChangers({ to, bySender }: LifecycleStep): boolean {
  return laneOf(to) === 'under check' || bySender;
}

function releases({ to }: LifecycleStep): boolean {
  return RELEASED_STATES.includes(to);
}

/** Whether what is sent on must have all that its class requires. */
function wantsComplete({ from, to }: LifecycleStep): boolean {
  const lane = laneOf(to);
  return (lane === 'under check' || lane === 'locked') && from.every((state) => laneOf(state) === 'open');
}

/** States in which somebody decides. */
const CHECKED_STATES: readonly State[] = SHIPPED.states.flatMap(({ name, lane }) =>
  lane === 'under check' ? name : [],
);

function stepOf(name: StepRequest['step']): LifecycleStep {
  const step = LIFECYCLE.find((candidate) => candidate.name === name);
  if (!step) throw new ProblemError('INPUT_INVALID', `There is no step '${name}'.`);
  return step;
}

function rightFor(step: LifecycleStep): Right {
  return isByChangers(step) ? 'change' : 'release';
}

/** More are counted no further: the point has been made. */
const MOST_DRAFTS = 500;
const MOST_WAITING = 1000;

interface Sender {
  readonly id: string;
  readonly name: string;
}

/** Moves items from state to state: all of those named, or none. */
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
  ) {}

  /** @throws ProblemError STEP_REFUSED where one of them cannot take it; nothing was changed then */
  async take({ items, step: name, reason }: StepRequest, person: Person): Promise<CustodyAnswer> {
    const step = stepOf(name);
    const named = await this.catalogue.resolveAll(items, person, rightFor(step));
    if (releases(step)) await this.refuseUnready(named, person);
    return this.turn.takeForStep(async (manager) => {
      const itemIds = [...new Set(named.map(({ itemId }) => itemId))];
      await lockItems(manager, itemIds);
      const targets = await this.catalogue.newestOf(itemIds, manager);
      const senders = await this.sendersOf(manager, targets);
      const refused = await this.refusals(manager, { targets, senders, step, reason }, person);
      if (refused.length > 0)
        throw new ProblemError('STEP_REFUSED', `${refused.join('; ')}. Nothing was changed.`, refused);
      await manager.query(
        'UPDATE revision SET state = $2 FROM version v WHERE revision.id = v.revision_id AND v.id = ANY($1::bigint[])',
        [targets.map(({ id }) => id), step.to],
      );
      if (releases(step)) {
        await this.supersede(manager, step, targets);
        const bills = targets.filter(({ kind }) => kind === 'bill');
        await this.releases.begin(manager, bills, person, reason);
      }
      // Withdrawing, too, changes what the lens Released picks.
      if (releases(step) || targets.some(({ state }) => RELEASED_STATES.includes(state))) {
        await refuseCircles(
          manager,
          targets.map(({ itemId }) => itemId),
          'As released',
          'released',
        );
      }
      const told = await this.peopleOf(manager, step.tells);
      await record(
        manager,
        targets.map((item) => ({
          personId: person.id,
          kind: 'step',
          itemId: item.itemId,
          says: `${person.name} ${DID[step.name](`${item.number} ${item.label}`)}${reason === '' ? '' : `: ${reason}`}`,
          detail: { step: step.name, from: item.state, to: step.to, version: item.label, reason },
          alsoTell: [...told, ...optional(senders.get(item.itemId)?.id)],
        })),
      );
      await announce(manager, 'items', 'notices');
      return { done: targets.map(({ number, label }) => ({ number, version: label })), refused: [] };
    });
  }

  /**
   * What a step would do, before it does: what would be refused and why, what below is not released yet, and how many are
   * told.
   */
  async preview({ items, step: name, reason }: StepRequest, person: Person): Promise<StepPreview> {
    const { manager } = this.database;
    const step = stepOf(name);
    const named = await this.catalogue.resolveAll(items, person);
    const targets = await this.catalogue.newestOf([...new Set(named.map(({ itemId }) => itemId))], manager);
    const senders = await this.sendersOf(manager, targets);
    // A reason is asked for with the step itself.
    const given = { targets, senders, step, reason: reason === '' ? 'asked for later' : reason };
    const hidden = (await this.rights.of(person)).placesWithout('see');
    return {
      items: targets.map(({ number, label }) => ({ number, version: label })),
      refused: await this.refusals(manager, given, person),
      drafts: releases(step) ? await this.draftsBelow(manager, targets, hidden) : [],
      users: await this.usersOf(manager, targets, hidden),
    };
  }

  /** What stands in the way, a sentence for each item. */
  private async refusals(
    manager: EntityManager,
    {
      targets,
      senders,
      step,
      reason,
    }: {
      readonly targets: readonly DescribedVersion[];
      readonly senders: ReadonlyMap<string, Sender>;
      readonly step: LifecycleStep;
      readonly reason: string;
    },
    person: Person,
  ): Promise<string[]> {
    const itemIds = targets.map(({ itemId }) => itemId);
    const holds = await holdsOf(manager, itemIds);
    const classes = await this.definitions.classesOf(itemIds, manager);
    const access = await this.rights.of(person, manager);
    const rightsAt = (placeId: string): ReadonlySet<Right> =>
      new Set(RIGHTS.filter((right) => access.may(right, placeId)));
    return targets.flatMap((item) => {
      const missing = wantsComplete(step) ? lacking(item, classes.get(item.itemId)) : undefined;
      if (missing !== undefined) return [missing];
      const by = { ...{ id: person.id, role: person.role }, rights: rightsAt(item.placeId) };
      const done = attempt(
        SHIPPED,
        { state: item.state, signatures: [] },
        { step: step.name, by, reason },
        {
          // No step that ships asks who made it; one that does needs the authors of the revision here.
          authors: new Set(),
          sender: senders.get(item.itemId),
          heldBy: holds.get(item.itemId)?.name,
        },
      );
      return done.kind === 'refused' ? [`${item.number}: ${done.why}`] : [];
    });
  }

  /** @throws ProblemError STEP_REFUSED for bills that are not ready, with why */
  private async refuseUnready(items: readonly DescribedVersion[], person: Person): Promise<void> {
    const refused: string[] = [];
    for (const { number, kind } of items) {
      if (kind !== 'bill') continue;
      const { failures } = await this.work.ask('build check', { bill: number }, person);
      const [first] = failures;
      if (first)
        refused.push(
          `${number} is not ready: ${first.says}${failures.length > 1 ? `, and ${failures.length - 1} more` : ''}`,
        );
    }
    if (refused.length > 0)
      throw new ProblemError(
        'STEP_REFUSED',
        `${refused.join('; ')}. Nothing was changed. Look at what is open in Build.`,
        refused,
      );
  }

  /** What the versions record, at any level, that was never released. */
  private async draftsBelow(
    manager: EntityManager,
    targets: readonly DescribedVersion[],
    hidden: readonly string[],
  ): Promise<StepPreview['drafts']> {
    return readRows<StepPreview['drafts'][number]>(
      manager,
      { number: text, name: text, version: text, state: word<State>() },
      `WITH RECURSIVE below(id) AS (
         SELECT unnest($1::bigint[])
         UNION SELECT l.target_version_id FROM below JOIN link l ON l.version_id = below.id
         WHERE l.target_version_id IS NOT NULL AND ${isStructure()}
       )
       SELECT i.number, i.name, ${LABEL} AS version, r.state FROM below JOIN version v ON v.id = below.id
       JOIN item i ON i.id = v.item_id JOIN revision r ON r.id = v.revision_id
       WHERE v.id <> ALL($1::bigint[]) AND NOT (${isReleased('r')}) AND i.place_id <> ALL($2::bigint[]) ORDER BY i.number_key LIMIT ${MOST_DRAFTS}`,
      [targets.map(({ id }) => id), hidden],
    );
  }

  /** How many items record one of these. */
  private async usersOf(
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

  /** What waits for somebody's decision: all that is in check where they may release, the longest waiting first. */
  async waitingFor(person: Person): Promise<CheckRow[]> {
    const decides = LIFECYCLE.some(
      (step) =>
        !isByChangers(step) &&
        step.roles.includes(person.role) &&
        step.from.some((state) => CHECKED_STATES.includes(state)),
    );
    if (!decides) return [];
    const shut = (await this.rights.of(person)).placesWithout('release');
    return readRows<CheckRow>(
      this.database,
      { number: text, name: text, version: text, sentBy: text, sentAt: timeText, reason: text },
      `SELECT i.number, i.name, ${LABEL} AS version, p.name AS "sentBy", e.at AS "sentAt", coalesce(e.detail->>'reason', '') AS reason
       FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       JOIN LATERAL (
         SELECT person_id, at, detail FROM event WHERE item_id = i.id AND kind = 'step' AND detail->>'to' = i.state
         ORDER BY id DESC LIMIT 1) e ON true
       JOIN person p ON p.id = e.person_id
       WHERE i.state = ANY($2) AND i.place_id <> ALL($1::bigint[]) ORDER BY e.at, i.number_key LIMIT ${MOST_WAITING}`,
      [shut, CHECKED_STATES],
    );
  }

  /** A released revision takes the place of those released before it. */
  private async supersede(
    manager: EntityManager,
    { supersedes, to }: LifecycleStep,
    targets: readonly DescribedVersion[],
  ): Promise<void> {
    if (supersedes === undefined) return;
    await manager.query(
      `UPDATE revision r SET state = $2 WHERE r.item_id = ANY($1::bigint[]) AND r.state <> $2 AND ${isReleased('r')}
       AND EXISTS (SELECT 1 FROM revision later WHERE later.item_id = r.item_id AND later.position > r.position AND later.state = $3)`,
      [targets.map(({ itemId }) => itemId), supersedes, to],
    );
  }

  /** By item, who asked for its check last. */
  private async sendersOf(
    manager: EntityManager,
    targets: readonly DescribedVersion[],
  ): Promise<Map<string, Sender>> {
    const rows = await readRows(
      manager,
      { itemId: text, id: text, name: text },
      `SELECT DISTINCT ON (e.item_id) e.item_id AS "itemId", e.person_id AS id, p.name
       FROM event e JOIN person p ON p.id = e.person_id
       WHERE e.kind = 'step' AND e.detail->>'to' = ANY($2) AND e.item_id = ANY($1::bigint[]) ORDER BY e.item_id, e.id DESC`,
      [targets.map(({ itemId }) => itemId), CHECKED_STATES],
    );
    return new Map(rows.map(({ itemId, ...sender }) => [itemId, sender]));
  }

  private async peopleOf(manager: EntityManager, roles: readonly string[]): Promise<string[]> {
    if (roles.length === 0) return [];
    const rows = await readRows(manager, { id: text }, 'SELECT id FROM person WHERE role = ANY($1)', [roles]);
    return rows.map(({ id }) => id);
  }
}

function optional<T>(value: T | undefined): T[] {
  return value === undefined ? [] : [value];
}

/** A sentence about what an item's class requires of it and is not there. */
function lacking(item: DescribedVersion, of: ItemClass | undefined): string | undefined {
  const missing = of ? missingProperties(of, item.facts.properties) : [];
  return missing.length === 0
    ? undefined
    : `${item.number}: as a ${of?.name} it needs ${missing.join(', ')}; check it out and enter that first`;
}
