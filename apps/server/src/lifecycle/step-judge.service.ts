import { Injectable } from '@nestjs/common';
import type { StepRequest } from '@stem-trace/contract';
import { stepNamed, type StateBook } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { stateBook } from '../database/state-book.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { SignaturesService, type Content } from '../signatures/signatures.service.js';
import type { ReleasedBelow } from '../store/baseline.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { standingsOf, takerAt } from '../store/standings.js';
import { draftsBelow } from './drafts-below.js';
import {
  belowOf,
  judge,
  overWhat,
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
    const standings = await standingsOf(manager, all);
    return all.flatMap((item): StepTarget[] => {
      const at = standings.get(item.itemId);
      if (!at) return [];
      return [{ item, at, step: stepNamed(at.diagram, name), by: takerAt(item.placeId, person, rights) }];
    });
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
    const out: Refused[] = [];
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
        return { refused: out, going, below: firm, contents, book };
      left = going.map(({ target }) => target);
    }
  }
}
