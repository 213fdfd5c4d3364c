import { Injectable } from '@nestjs/common';
import type { StepRequest } from '@stem-trace/contract';
import { attempt, stepsAlong, stepNamed, type StateBook } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { stateBook } from '../database/state-book.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { SignaturesService, type Content } from '../signatures/signatures.service.js';
import type { ReleasedBelow } from '../store/baseline.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { effectivityFaults } from '../store/effectivity.js';
import { standingsOf, takerAt } from '../store/standings.js';
import { boundTo } from '../store/changes.js';
import { draftsBelow } from './drafts-below.js';
import {
  belowOf,
  judge,
  overWhat,
  together,
  type Going,
  type Refused,
  type StepGround,
  type StepTarget,
} from './step-ground.js';

/** What becomes of each, once it is known what goes and what does not. */
export interface Settled {
  readonly refused: readonly Refused[];
  readonly going: readonly Going[];
  /** What stands below what is released now. */
  readonly below: ReleasedBelow;
  readonly contents: ReadonlyMap<string, Content>;
  readonly book: StateBook;
}

/** Works out what becomes of items that are to take a step, before anything is done. */
@Injectable()
export class StepJudgeService {
  constructor(
    private readonly rights: RightsService,
    private readonly catalogue: CatalogueService,
    private readonly definitions: DefinitionsService,
    private readonly signatures: SignaturesService,
  ) {}

  /** What is named, and on demand everything below it that does not count as released. */
  async targetsOf(
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
    const standings = await standingsOf(manager, all, rights);
    const targets = all.flatMap((item): StepTarget[] => {
      const at = standings.get(item.itemId);
      if (!at) return [];
      return [{ item, at, step: stepNamed(at.diagram, name), by: takerAt(item.placeId, person, rights) }];
    });
    return this.withBound(manager, targets, person, rights);
  }

  /**
   * With all that the orders among them move: what they make, which must go along, and requests that they answer, which go along
   * where their lifecycle has a step for it.
   */
  private async withBound(
    manager: EntityManager,
    targets: readonly StepTarget[],
    person: Person,
    rights: Rights,
  ): Promise<StepTarget[]> {
    const orders = new Map(
      targets.flatMap((target) =>
        target.item.kind === 'order' && target.step ? [[target.item.itemId, target]] : [],
      ),
    );
    if (orders.size === 0) return [...targets];
    const bound = await boundTo(manager, [...orders.keys()]);
    const book = await stateBook(manager);
    const items = await this.catalogue.newestOf([...bound.keys()], manager);
    const standings = await standingsOf(manager, items, rights);
    const along = items.flatMap((item): StepTarget[] => {
      const at = standings.get(item.itemId);
      const order = orders.get(bound.get(item.itemId) ?? '');
      if (!at || !order?.step) return [];
      const from = order.at.standing.state;
      const of = { step: order.step.name, from, to: order.step.to };
      const steps = stepsAlong(of, { diagram: at.diagram, state: item.state }, book);
      if (steps === 'stays' || (item.kind === 'request' && steps.length === 0)) return [];
      const { movedBy: _, ...subject } = at.subject;
      const by = takerAt(item.placeId, person, rights);
      // Of several, one that the taker may take; where there is none, the first says why.
      const may = steps.find(
        ({ name }) =>
          attempt(at.diagram, at.standing, { step: name, by, reason: 'given' }, subject).kind !== 'refused',
      );
      return [{ item, at: { ...at, subject }, step: may ?? steps[0], by, with: order.item.itemId }];
    });
    const moved = new Set(along.map(({ item }) => item.itemId));
    return [...targets.filter(({ item }) => !moved.has(item.itemId)), ...along];
  }

  /** Judges until what is left stands together: what is left out may be what something else stands on. */
  async settle(
    manager: EntityManager,
    targets: readonly StepTarget[],
    { step: name, reason, leavesOut = false }: StepRequest,
    person: Person,
  ): Promise<Settled> {
    const book = await stateBook(manager);
    const rights = await this.rights.of(person, manager);
    const ids = targets.map(({ item }) => item.itemId);
    const classes = await this.definitions.classesOf(ids, manager);
    const inTime = await effectivityFaults(
      manager,
      targets.map(({ item }) => item.id),
      rights,
    );
    const out: Refused[] = [];
    for (let left = targets; ;) {
      const below = await belowOf(manager, left, book);
      const signing = left.filter(({ step }) => step?.signatures).map(({ item }) => item.id);
      const contents = await this.signatures.contentsOf(manager, signing, below, madeBy(left));
      const ground: StepGround = { book, classes, rights, name, reason, contents, inTime };
      const judged = left.map((target) => judge(target, ground));
      const taken = judged.flatMap((each) => (each.kind === 'taken' ? each.target : []));
      const firm = judged.some(({ kind }) => kind === 'signed') ? await belowOf(manager, taken, book) : below;
      const alone = judged.map((each) => overWhat(each, each.kind === 'taken' ? firm : below, ground));
      const final = together(alone, rights);
      const refused = final.flatMap((each) => (each.kind === 'refused' ? each : []));
      const going = final.flatMap((each) => (each.kind === 'refused' ? [] : each));
      out.push(...refused);
      if (refused.length === 0 || !leavesOut || going.length === 0)
        return { refused: out, going, below: firm, contents, book };
      left = going.map(({ target }) => target);
    }
  }
}

/** Versions that go along with change orders, by that of the order. */
function madeBy(targets: readonly StepTarget[]): Map<string, string[]> {
  const orders = new Map(targets.map(({ item }) => [item.itemId, item.id]));
  const made = new Map<string, string[]>();
  for (const { item, with: order } of targets) {
    const of = order === undefined ? undefined : orders.get(order);
    if (of !== undefined) made.set(of, [...(made.get(of) ?? []), item.id]);
  }
  return made;
}
