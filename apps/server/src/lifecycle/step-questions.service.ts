import { Injectable } from '@nestjs/common';
import type { CheckRow, OfferedStep, StepPreview, StepRequest } from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { isInLane } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { number, orNull, readRow, readRows, text, timeText } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { SignaturesService } from '../signatures/signatures.service.js';
import { LABEL } from '../store/item-row.js';
import { isAsked } from './asked.js';
import { decidesAt, offeredAt, standingsOf, takerAt } from '../store/standings.js';
import { draftsBelow } from './drafts-below.js';
import { causes, releases } from './step-ground.js';
import { StepJudgeService } from './step-judge.service.js';

const MOST_WAITING = 1000;

/** What steps would do, which there are, and what waits for one. */
@Injectable()
export class StepQuestionsService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
    private readonly catalogue: CatalogueService,
    private readonly judging: StepJudgeService,
    private readonly signatures: SignaturesService,
  ) {}

  /**
   * What a step would do, before it does: what would be refused and why, what below is not released yet, and how many are
   * told.
   */
  async preview(request: StepRequest, person: Person): Promise<StepPreview> {
    const { manager } = this.database;
    const targets = await this.judging.targetsOf(manager, request, person);
    // A reason is asked for with the step itself.
    const given = { ...request, reason: request.reason === '' ? 'asked for later' : request.reason };
    const { refused, going, book } = await this.judging.settle(manager, targets, given, person);
    const rights = await this.rights.of(person);
    const hidden = rights.placesWithout('see');
    const items = targets.map(({ item }) => item);
    const isRelease = targets.some(({ step }) => step && releases(step, book));
    const drafts = isRelease ? await draftsBelow(manager, items, hidden) : [];
    // A change order may move items that the asker may not see; it is refused for them, without their numbers.
    const listed = (request.leavesOut ? going.map(({ target }) => target.item) : items).filter(
      ({ placeId }) => rights.may('see', placeId),
    );
    const isSigned = targets.some(({ step }) => step?.signatures);
    const shown = isSigned
      ? await this.signatures.shownOf(
          manager,
          listed.map(({ id }) => id),
        )
      : new Map<string, string>();
    return {
      items: listed.map(({ id, number: own, label }) => ({
        ...{ number: own, version: label },
        shown: shown.get(id) ?? '',
      })),
      refused: causes(refused),
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
              sheet.id::text AS sheet, e.at AS "sentAt", coalesce(e.detail->>'reason', '') AS reason
       FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       JOIN LATERAL (
         SELECT person_id, at, detail FROM event WHERE item_id = i.id AND kind = 'step' AND detail->>'to' = i.state
         ORDER BY id DESC LIMIT 1) e ON true
       JOIN person p ON p.id = e.person_id
       LEFT JOIN LATERAL (SELECT max(s.sheet_id) AS id FROM check_sheet_item s WHERE s.item_id = i.id AND s.version_id = v.id) sheet ON true
       WHERE ${isAsked('sheet.id', '$2')} AND ${isInLane('under check', 'i')} AND i.place_id <> ALL($1::bigint[]) ORDER BY e.at, i.number_key LIMIT ${MOST_WAITING}`,
      [rights.placesWithout('release'), person.id],
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
        return at && decidesAt(at, takerAt(placeId, person, rights)) ? itemId : [];
      }),
    );
    return rows.flatMap(({ id, ...row }) => (mine.has(id) ? row : []));
  }
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
