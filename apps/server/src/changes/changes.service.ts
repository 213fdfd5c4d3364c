import { parseReference } from '@stem-trace/contract';
import type {
  ChangeInput,
  ChangeMade,
  JoinRequestsRequest,
  NewChangeRequest,
  SaveChangeRequest,
  TickTaskRequest,
} from '@stem-trace/contract';
import {
  fileNameFor,
  isChange,
  numberKey,
  refuseChange,
  sayChanges,
  valueAt,
  type ChangeContents,
  type ChangeKind,
  type ChangeLine,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { stateBook } from '../database/state-book.js';
import { announce } from '../feed/feed.js';
import type { LifecycleService } from '../lifecycle/lifecycle.service.js';
import { ProblemError } from '../problems/problem.js';
import type { NumbersService } from '../properties/numbers.service.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import type { VersionFacts } from '../store/facts.js';
import { insertNewItem, requireNumber } from '../store/new-item.js';
import { insertVersions } from '../store/store-writer.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { record } from '../trail/record.js';
import type { ChangeFiles } from './change-contents.js';
import { whyLocked } from './why-locked.js';
import { keepLines, type StoredChange } from './keep-lines.js';

const ENDING: Readonly<Record<ChangeKind, string>> = { request: '.request.json', order: '.order.json' };
const SCHEME: Readonly<Record<ChangeKind, string>> = {
  request: 'Change requests',
  order: 'Change orders',
};
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
    const [scheme = ''] =
      wanted === '' ? await this.numbers.reserve({ scheme: SCHEME[kind], count: 1 }) : [wanted];
    requireNumber(scheme);
    return this.turn.take(async (manager) => {
      const { contents: said, items } = await this.understood(contents, [], person, manager);
      const itemId = await insertNewItem(
        manager,
        this.rights,
        {
          ...{ number: scheme, name, kind, place: place === '' ? PLACE : place, facts: FACTS },
          fileName: fileNameFor(scheme, ENDING[kind]),
          needs: kind === 'request' ? 'see' : 'change',
        },
        person,
      );
      const change = { itemId, number: scheme, name, kind, place: place === '' ? PLACE : place };
      await manager.query('INSERT INTO change (item_id, urgency) VALUES ($1, $2)', [itemId, said.urgency]);
      const version = await this.write(manager, change, said, { person, at, comment: 'As it was raised' });
      await manager.query('INSERT INTO watch (person_id, item_id) VALUES ($1, $2) ON CONFLICT DO NOTHING', [
        person.id,
        itemId,
      ]);
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'change' as const, itemId, at, address: changeAddress(scheme) },
          says: `${person.name} ${kind === 'request' ? 'raised the change request' : 'made the change order'} ${scheme}: ${name}`,
        },
      ]);
      const answered = said.lines.flatMap(({ relation, itemId: id }) => (relation === 'answers' ? id : []));
      const requests = items.filter(({ itemId: id }) => answered.includes(id));
      if (requests.length > 0)
        await this.lifecycle.takeOn(manager, requests, `Taken on with ${scheme}`, { person, at });
      await announce(manager, 'items', 'notices', 'changes');
      return { number: scheme, version };
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
      const hidden = await this.hiddenLines(manager, before.lines, rights);
      const { contents: next } = await this.understood(contents, hidden, person, manager);
      const says = [...(newest.name === name ? [] : [`now called ${name}`]), ...sayChanges(before, next)];
      if (says.length === 0) return { number: newest.number, version: newest.label };
      await manager.query('UPDATE item SET name = $2 WHERE id = $1 AND name <> $2', [newest.itemId, name]);
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

  /** By whoever it is given to, or may change the order. @throws ProblemError NOT_FOUND, NOT_ALLOWED, STEP_REFUSED */
  async tick({ change, task: key, done }: TickTaskRequest, person: Person): Promise<void> {
    const order = await this.catalogue.resolve(change, person);
    const rights = await this.rights.of(person);
    await this.database.transaction(async (manager) => {
      await lockItems(manager, [order.itemId]);
      const [task] = await readRows(
        manager,
        { what: text, who: text },
        `SELECT what, coalesce(person_id::text, '') AS who FROM change_task WHERE change_id = $1 AND key = $2`,
        [order.itemId, key],
      );
      if (!task) throw new ProblemError('NOT_FOUND', `${order.number} has no such task.`);
      if (task.who !== person.id && !rights.may('change', order.placeId))
        throw new ProblemError(
          'NOT_ALLOWED',
          'Only who it is given to, or whoever may change the order, ticks it off.',
        );
      const { lane } =
        (await stateBook(manager)).get((await this.catalogue.newest(order.itemId, manager)).state) ?? {};
      if (lane !== 'open' && lane !== 'under check')
        throw new ProblemError(
          'STEP_REFUSED',
          `Nothing is open in ${order.number} any more. Nothing was changed.`,
        );
      await manager.query(
        done
          ? 'INSERT INTO change_task_done (change_id, key, person_id) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING'
          : 'DELETE FROM change_task_done WHERE change_id = $1 AND key = $2 AND $3::bigint IS NOT NULL',
        [order.itemId, key, person.id],
      );
      await record(manager, [
        {
          ...{
            personId: person.id,
            kind: 'change' as const,
            itemId: order.itemId,
            address: changeAddress(order.number),
          },
          says: `${person.name} ${done ? 'ticked off' : 'opened again'} in ${order.number}: ${task.what}`,
        },
      ]);
      await announce(manager, 'notices', 'changes');
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
    const ids = await insertVersions(manager, [
      {
        ...{ itemId, comment: comment.slice(0, 2000), authorId: person.id, createdAt: at, sha256 },
        ...{ fileName: fileNameFor(number, ENDING[kind]), storedPlace: place, productRef: 0 },
        ...{
          idInFile: number,
          nameInFile: name,
          carrierVersionId: null,
          originVersionId: null,
          facts: FACTS,
        },
      },
    ]);
    await keepLines(manager, itemId, contents);
    const id = valueAt(ids, 0);
    return (await this.catalogue.describe([id], manager)).get(id)?.label ?? '';
  }

  /** What was sent, with the items that its numbers mean. @param hidden lines that the sender was not shown, which stay */
  private async understood(
    { lines, ...others }: ChangeInput,
    hidden: readonly ChangeLine[],
    person: Person,
    manager: EntityManager,
  ): Promise<{ readonly contents: ChangeContents; readonly items: readonly DescribedVersion[] }> {
    await requirePeople(manager, [others.owner, ...others.tasks.map(({ who }) => who)]);
    const items = await this.catalogue.resolveAll(
      lines.map(({ item }) => item),
      person,
      'see',
      manager,
    );
    const byNumber = new Map(items.map((item) => [numberKey(item.number), item]));
    const said = lines.map(({ item, relation, note, inStock, inWork }): ChangeLine => {
      const found = byNumber.get(numberKey(parseReference(item).number));
      if (!found) throw new ProblemError('ITEM_UNKNOWN', `There is no item ${item} in the store.`);
      refuseRelation(found, relation);
      return { relation, itemId: found.itemId, note, inStock, inWork };
    });
    return { contents: { ...others, lines: [...said, ...hidden] }, items };
  }

  private async hiddenLines(
    manager: EntityManager,
    lines: readonly ChangeLine[],
    rights: Rights,
  ): Promise<ChangeLine[]> {
    const rows = await readRows(
      manager,
      { id: text, placeId: text },
      'SELECT id, place_id AS "placeId" FROM item WHERE id = ANY($1::bigint[])',
      [lines.map(({ itemId }) => itemId)],
    );
    const hidden = new Set(rows.flatMap(({ id, placeId }) => (rights.may('see', placeId) ? [] : id)));
    return lines.filter(({ itemId }) => hidden.has(itemId));
  }
}

/** Where a change is looked at. */
export function changeAddress(number: string): string {
  return `/change?change=${encodeURIComponent(number)}`;
}

function capital(text: string): string {
  return text.slice(0, 1).toUpperCase() + text.slice(1);
}

/** @throws ProblemError INPUT_INVALID for a request that answers, or what is no request and is answered */
function refuseRelation({ number, kind }: DescribedVersion, relation: ChangeLine['relation']): void {
  if ((relation === 'answers' || relation === 'joins') && kind !== 'request')
    throw new ProblemError('INPUT_INVALID', `${number} is no change request, so that nothing answers it.`);
  if ((relation === 'shows in' || relation === 'affects') && isChange(kind))
    throw new ProblemError(
      'INPUT_INVALID',
      `${number} is a change itself; say what it refers to, or answers.`,
    );
}

/** @throws ProblemError INPUT_INVALID for a login that nobody has */
async function requirePeople(manager: EntityManager, logins: readonly string[]): Promise<void> {
  const wanted = [...new Set(logins.filter((login) => login !== ''))];
  const rows = await readRows(
    manager,
    { login: text },
    'SELECT login FROM person WHERE login = ANY($1::text[])',
    [wanted],
  );
  const known = new Set(rows.map(({ login }) => login));
  const missing = wanted.find((login) => !known.has(login));
  if (missing !== undefined)
    throw new ProblemError(
      'INPUT_INVALID',
      `Nobody here is called ${missing}. Choose one of the people there are.`,
    );
}

/** Ids of people who were given something that they did not have before. */
async function newlyNamed(
  manager: EntityManager,
  before: ChangeContents,
  after: ChangeContents,
): Promise<string[]> {
  const had = new Set([before.owner, ...before.tasks.map(({ key, who }) => `${key} ${who}`)]);
  const fresh = [
    ...(had.has(after.owner) ? [] : [after.owner]),
    ...after.tasks.flatMap(({ key, who }) => (had.has(`${key} ${who}`) ? [] : who)),
  ].filter((login) => login !== '');
  const rows = await readRows(
    manager,
    { id: text },
    'SELECT id FROM person WHERE is_active AND login = ANY($1::text[])',
    [fresh],
  );
  return rows.map(({ id }) => id);
}
