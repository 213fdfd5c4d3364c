import type {
  ChangeMade,
  JoinRequestsRequest,
  NewChangeRequest,
  SaveChangeRequest,
} from '@stem-trace/contract';
import {
  fileNameFor,
  isChange,
  refuseChange,
  sayChanges,
  valueAt,
  type ChangeContents,
  type ChangeKind,
  type ChangeLine,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { stateBook } from '../database/state-book.js';
import { announce } from '../feed/feed.js';
import type { LifecycleService } from '../lifecycle/lifecycle.service.js';
import { ProblemError } from '../problems/problem.js';
import type { NumbersService } from '../properties/numbers.service.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { searchText, type VersionFacts } from '../store/facts.js';
import { insertNewItem, requireNumber } from '../store/new-item.js';
import { insertVersions } from '../store/store-writer.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { record } from '../trail/record.js';
import type { ChangeFiles } from './change-contents.js';
import { whyLocked } from './why-locked.js';
import { changeAddress } from './change-address.js';
import { keepLines, type StoredChange } from './keep-lines.js';
import { hiddenLines, newlyNamed, understood } from './understood.js';

const ENDING: Readonly<Record<ChangeKind, string>> = { request: '.request.json', order: '.order.json' };
/** Characters of what is wrong that stand beside the number wherever the change is shown. */
const MOST_DESCRIBED = 2000;
/** Where changes lie when nobody says where. */
const PLACE = '/Changes';

const FACTS: VersionFacts = {
  ...{ description: '', format: 'other', schema: '', versionText: '', source: 'unknown', properties: [] },
};

/** Change requests and change orders: made and written, version by version. */
export class ChangesService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly files: ChangeFiles,
    private readonly numbers: NumbersService,
    private readonly lifecycle: LifecycleService,
  ) {}

  /**
   * Whoever sees where changes lie may raise a request; an order is made by whoever may change there. Requests that it answers are
   * taken on with it.
   *
   * @throws ProblemError ITEM_UNKNOWN, INPUT_INVALID, NOT_ALLOWED, STEP_REFUSED for a request that cannot be taken on
   */
  async create(
    { kind, number: wanted, name, place, contents }: NewChangeRequest,
    person: Person,
    at = new Date(),
  ): Promise<ChangeMade> {
    const number = wanted === '' ? await this.numbers.next(kind) : wanted;
    requireNumber(number);
    return this.turn.take(async (manager) => {
      const { contents: said, items } = await understood(manager, contents, {
        ...{ catalogue: this.catalogue, hidden: [], person },
      });
      const itemId = await insertNewItem(
        manager,
        this.rights,
        {
          ...{ number, name, kind, place: place === '' ? PLACE : place, facts: FACTS },
          fileName: fileNameFor(number, ENDING[kind]),
          needs: kind === 'request' ? 'see' : 'change',
        },
        person,
      );
      const change = { itemId, number, name, kind, place: place === '' ? PLACE : place };
      await manager.query('INSERT INTO change (item_id, urgency) VALUES ($1, $2)', [itemId, said.urgency]);
      const version = await this.write(manager, change, said, { person, at, comment: 'As it was raised' });
      await manager.query('INSERT INTO watch (person_id, item_id) VALUES ($1, $2) ON CONFLICT DO NOTHING', [
        person.id,
        itemId,
      ]);
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'change' as const, itemId, at, address: changeAddress(number) },
          says: `${person.name} ${kind === 'request' ? 'raised the change request' : 'made the change order'} ${number}: ${name}`,
        },
      ]);
      const answered = said.lines.flatMap(({ relation, itemId: id }) => (relation === 'answers' ? id : []));
      const requests = items.filter(({ itemId: id }) => answered.includes(id));
      if (requests.length > 0)
        await this.lifecycle.takeOn(manager, requests, `Taken on with ${number}`, { person, at });
      await announce(manager, 'items', 'notices', 'changes');
      return { number, version };
    });
  }

  /** @throws ProblemError NOT_ALLOWED, NOT_HELD, STEP_REFUSED, INPUT_INVALID where it is at another version by now */
  async save(
    { change: reference, version: seen, name, contents }: SaveChangeRequest,
    person: Person,
    at = new Date(),
  ): Promise<ChangeMade> {
    const named = await this.catalogue.resolve(reference, person);
    return this.turn.take(async (manager) => {
      await lockItems(manager, [named.itemId]);
      const newest = await this.catalogue.newest(named.itemId, manager);
      const rights = await this.rights.of(person, manager);
      const locked = await whyLocked(manager, newest, person, rights);
      if (locked) throw new ProblemError(locked.code, `${newest.number}: ${locked.says}. Nothing was saved.`);
      if (newest.label !== seen)
        throw new ProblemError(
          'INPUT_INVALID',
          `${newest.number} is at ${newest.label} by now; you edited ${seen}. Nothing was saved. Look at the newest version, and take your changes over.`,
        );
      if (!isChange(newest.kind)) throw new ProblemError('INPUT_INVALID', `${newest.number} is no change.`);
      const before = await this.files.read(newest);
      const hidden = await hiddenLines(manager, before.lines, rights);
      const { contents: next } = await understood(manager, contents, {
        catalogue: this.catalogue,
        hidden,
        before,
        person,
      });
      const says = [...(newest.name === name ? [] : [`now called ${name}`]), ...sayChanges(before, next)];
      if (says.length === 0) return { number: newest.number, version: newest.label };
      const change = { ...newest, kind: newest.kind, name };
      const version = await this.write(manager, change, next, {
        person,
        at,
        comment: capital(says.join('; ')),
      });
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'change' as const, itemId: newest.itemId, at },
          ...{
            address: changeAddress(newest.number),
            alsoTell: await newlyNamed(manager, before, next),
            tellsOf: 'given' as const,
          },
          says: `${person.name} changed ${newest.number}: ${says.join('; ')}`,
        },
      ]);
      await announce(manager, 'items', 'notices', 'changes');
      return { number: newest.number, version };
    });
  }

  /**
   * The other request gets what this one names; this one says that it was joined, and takes a step out of use.
   *
   * @throws ProblemError INPUT_INVALID, NOT_ALLOWED, STEP_REFUSED
   */
  async join({ change, into, step, reason }: JoinRequestsRequest, person: Person): Promise<void> {
    const named = await Promise.all([
      this.catalogue.resolve(change, person, 'release'),
      this.catalogue.resolve(into, person),
    ]);
    if (named.some(({ kind }) => kind !== 'request') || named[0].itemId === named[1].itemId)
      throw new ProblemError('INPUT_INVALID', 'A change request is joined with another change request.');
    await this.turn.take(async (manager) => {
      const ids = named.map(({ itemId }) => itemId);
      await lockItems(manager, ids);
      const book = await stateBook(manager);
      const one = await this.catalogue.newest(named[0].itemId, manager);
      const other = await this.catalogue.newest(named[1].itemId, manager);
      const refusal = [one, other].flatMap((each) => {
        const why = refuseChange(book, each.state);
        return why === undefined ? [] : [`${each.number}: ${why}`];
      });
      if (refusal.length > 0)
        throw new ProblemError('STEP_REFUSED', `${refusal.join('; ')}. Nothing was changed.`);
      await this.joinFiles(manager, one, other, { reason, person });
      const answer = await this.lifecycle.takeUnsigned(
        manager,
        { items: [one.number], step, reason: reason || `Joined with ${other.number}` },
        person,
      );
      const [done] = answer.done;
      const after = done && (await this.catalogue.newest(one.itemId, manager));
      if (!after || book.get(after.state)?.lane !== 'out of use')
        throw new ProblemError(
          'INPUT_INVALID',
          `${step} leads to no state that is out of use. Nothing was changed.`,
        );
      await announce(manager, 'items', 'notices', 'changes');
    });
  }

  private async joinFiles(
    manager: EntityManager,
    one: DescribedVersion,
    other: DescribedVersion,
    { reason, person }: { readonly reason: string; readonly person: Person },
  ): Promise<void> {
    const [before, kept] = [await this.files.read(one), await this.files.read(other)];
    const known = new Set(kept.lines.map(({ relation, itemId }) => `${relation} ${itemId}`));
    const more = before.lines.filter(
      ({ relation, itemId }) => relation !== 'joins' && !known.has(`${relation} ${itemId}`),
    );
    const joined: ChangeLine = {
      relation: 'joins',
      itemId: other.itemId,
      note: reason,
      inStock: '',
      inWork: '',
    };
    const at = new Date();
    await this.write(
      manager,
      { ...one, kind: 'request' },
      { ...before, lines: [...before.lines, joined] },
      { person, at, comment: `Joined with ${other.number}` },
    );
    await this.write(
      manager,
      { ...other, kind: 'request' },
      { ...kept, lines: [...kept.lines, ...more], evidence: [...kept.evidence, ...before.evidence] },
      { person, at, comment: `With what ${one.number} names` },
    );
  }

  private async write(
    manager: EntityManager,
    { itemId, number, name, kind, place }: StoredChange & { readonly place: string },
    contents: ChangeContents,
    { person, at, comment }: { readonly person: Person; readonly at: Date; readonly comment: string },
  ): Promise<string> {
    const { sha256 } = await this.files.write(manager, kind, contents);
    const facts: VersionFacts = { ...FACTS, description: contents.why.slice(0, MOST_DESCRIBED) };
    const ids = await insertVersions(manager, [
      {
        ...{ itemId, comment: comment.slice(0, 2000), authorId: person.id, createdAt: at, sha256 },
        ...{ fileName: fileNameFor(number, ENDING[kind]), storedPlace: place, productRef: 0 },
        ...{ idInFile: number, nameInFile: name, carrierVersionId: null, originVersionId: null, facts },
      },
    ]);
    // It is found by what it says.
    await manager.query('UPDATE item SET name = $2, search_text = $3, body_text = $4 WHERE id = $1', [
      ...[itemId, name, searchText(number, name, facts), textOf(contents)],
    ]);
    await keepLines(manager, itemId, contents);
    const id = valueAt(ids, 0);
    return (await this.catalogue.describe([id], manager)).get(id)?.label ?? '';
  }
}

/** What the words of a search are looked up in: all that somebody wrote. */
function textOf({ why, lines, tasks, evidence, costs }: ChangeContents): string {
  return [
    why,
    ...lines.map(({ note }) => note),
    ...[...tasks, ...costs].map(({ what }) => what),
    ...evidence.map(({ says }) => says),
  ].join('\n');
}

function capital(text: string): string {
  return text.slice(0, 1).toUpperCase() + text.slice(1);
}
