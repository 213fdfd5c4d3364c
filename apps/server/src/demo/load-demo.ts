import type { NoticeSetting } from '@stem-trace/contract';
import { createReadStream } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { INestApplication } from '@nestjs/common';
import { PLAIN_DERIVATION } from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import { AccessService } from '../access/access.service.js';
import type { Person } from '../database/entities/person.js';
import { countRows, number, readRow, readRows, text } from '../database/read-rows.js';
import { PropertiesService } from '../properties/properties.service.js';
import { DefinitionsService } from '../properties/definitions.service.js';
import { NumbersService } from '../properties/numbers.service.js';
import { PlaceAccessService } from '../places/place-access.service.js';
import { PlacesService } from '../places/places.service.js';
import { IntakeService } from '../intake/intake.service.js';
import { WorkHost } from '../work/work-host.js';
import { recordQuietly } from '../trail/record.js';
import { EffectivityService } from '../bom/effectivity.service.js';
import { makeBill } from './demo-bill.js';
import { issue } from './demo-issue.js';
import { RemindersService } from '../changes/reminders.service.js';
import { change } from './demo-change.js';
import { check } from './demo-check.js';
import { drawOn } from './demo-marks.js';
import { fulfilWishes } from './demo-wishes.js';
import {
  markAsDemo,
  readHistory,
  type DemoCarryOver,
  type DemoHistory,
  type DemoFolder,
  type DemoHold,
  type DemoStep,
  type DemoWithdrawal,
  type DemoEffectivity,
} from './demo-people.js';

/** Files that are read side by side. */
const PARALLEL = 3;

/** Fills an empty store with the demo organisation, by the same intake as everybody's, at the times of its history. */
export async function loadDemo(
  app: INestApplication,
  folder: string,
  say: (line: string) => void,
): Promise<void> {
  const access = app.get(AccessService);
  const { manager } = app.get(DataSource);
  const demo = await readHistory(folder);
  if (await access.hasPeople()) {
    // Stores that were filled before demo stores were marked.
    if (await isFilledBy(demo, manager)) await markAsDemo(manager);
    return;
  }
  // Its history releases and withdraws; what is somebody else's must not be touched by that.
  if ((await countRows(manager, 'SELECT 1 FROM item LIMIT 1')) > 0) {
    say('The store holds other data, so that the demo data is left out.');
    return;
  }
  say('Loading the demo data …');
  await markAsDemo(manager);
  const { place, people, history } = demo;
  const byLogin = new Map<string, Person>();
  for (const person of people) byLogin.set(person.login, await access.ensurePerson(person));
  for (const step of history) {
    const person = byLogin.get(step.by);
    if (!person) throw new Error(`the demo's history names '${step.by}', who is not among its people`);
    await takeStep(app, { step, person, people: byLogin, place, folder: join(folder, 'models') });
  }
  const administrator = [...byLogin.values()].find(({ role }) => role === 'administrator');
  if (administrator) await define(app, demo, administrator);
  // What was said of changes years ago is read by now, and nobody is reminded of it anew.
  await app.get(RemindersService).remind(new Date());
  await manager.query(
    `UPDATE notice SET read_at = now() WHERE read_at IS NULL
       AND item_id IN (SELECT id FROM item WHERE kind IN ('request', 'order'))`,
  );
  // What happened before is told nobody by mail.
  await manager.query(
    `UPDATE person SET mail = login || '@fenmark.example', notice_ways = $2 WHERE login = ANY($1::text[])`,
    [people.map(({ login }) => login), JSON.stringify(DEMO_WAYS)],
  );
}

const DEMO_WAYS: NoticeSetting['ways'] = {
  ...{ 'to check': 'at once', decided: 'at once', given: 'at once' },
  ...{ asked: 'at once', watched: 'daily', searches: 'daily' },
};

/** Whether the people of a store are those of the demo data, all of them and in their roles. */
async function isFilledBy({ people }: DemoHistory, manager: EntityManager): Promise<boolean> {
  const known = await readRows(
    manager,
    { login: text, name: text, role: text },
    'SELECT login, name, role FROM person WHERE login = ANY($1::text[])',
    [people.map(({ login }) => login)],
  );
  const byLogin = new Map(known.map((person) => [person.login, person]));
  return people.every(({ login, name, role }) => {
    const person = byLogin.get(login);
    return person?.name === name && person.role === role;
  });
}

/** What an administrator would set before anybody designs anything, and which items are of which class. */
async function define(app: INestApplication, demo: DemoHistory, administrator: Person): Promise<void> {
  const definitions = app.get(DefinitionsService);
  for (const definition of demo.definitions) await definitions.setDefinition(definition, administrator);
  for (const { name, properties, items } of demo.classes) {
    await definitions.setClass({ name, properties }, administrator);
    await app.get(DataSource).query(
      `UPDATE item SET class_id = c.id FROM class c
       WHERE c.name = $1 AND item.kind = 'part' AND EXISTS (SELECT 1 FROM unnest($2::text[]) b WHERE starts_with(item.number, b))`,
      [name, items],
    );
  }
  for (const scheme of demo.schemes) await app.get(NumbersService).set(scheme, administrator);
}

interface StepContext<S extends DemoStep = DemoStep> {
  readonly step: S;
  readonly person: Person;
  readonly people: ReadonlyMap<string, Person>;
  readonly place: string;
  readonly folder: string;
}

async function takeStep(app: INestApplication, context: StepContext): Promise<void> {
  const { step, person } = context;
  const database = app.get(DataSource);
  switch (step.kind) {
    case 'bring in':
      await bringIn(app.get(IntakeService), { ...context, step });
      await release(database, step.release);
      return;
    case 'derive':
      await app.get(WorkHost).ask(
        'derive',
        {
          ...PLAIN_DERIVATION,
          item: step.item,
          share: step.share,
          replace: step.replace,
          place: step.place,
          at: new Date(step.at),
        },
        person,
      );
      return;
    case 'hold':
      await database.transaction((manager) => hold(manager, step, person));
      return;
    case 'shut':
      await app.get(PlacesService).create(step.place, person);
      await app
        .get(PlaceAccessService)
        .change({ place: step.place, inherits: false, grants: step.grants }, person);
      return;
    case 'withdraw':
      await database.transaction((manager) => withdraw(manager, step, person));
      return;
    case 'check':
      await check(database, step, person, context.people);
      return;
    case 'change':
      await change(app, step, person, context.people);
      return;
    case 'issue':
      await issue(app, step.items, { person, notes: step.notes, at: new Date(step.at) });
      return;
    case 'counts':
      await sayWhenItCounts(app, step, person);
      return;
    case 'bill':
      await makeBill(app, step, person);
      return;
    case 'draw on':
      await drawOn(app, step, person);
      return;
    case 'carry over':
      await carryOver(app, step, person);
      return;
    case 'set':
      await app.get(PropertiesService).edit({ ...step, checkOut: true }, person, new Date(step.at));
      return;
    case 'wishes':
      await fulfilWishes(app, step, person);
  }
}

/** What comes of it is let go right away. */
async function carryOver(app: INestApplication, step: DemoCarryOver, person: Person): Promise<void> {
  const { item, leave, at } = step;
  const { done } = await app
    .get(WorkHost)
    .ask('carry over out', { item, leave, decided: [], at: new Date(at) }, person);
  await app
    .get(DataSource)
    .query(
      'DELETE FROM hold WHERE person_id = $1 AND item_id IN (SELECT id FROM item WHERE number = ANY($2::text[]))',
      [person.id, done.map(({ number }) => number)],
    );
}

async function bringIn(
  intakes: IntakeService,
  { step, person, place, folder }: StepContext<DemoFolder>,
): Promise<void> {
  const sheet = await intakes.create({ place: step.place ?? place, prefix: '' }, person);
  const root = join(folder, step.folder);
  const entries = await readdir(root, { recursive: true, withFileTypes: true });
  const files = entries
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(root.length + 1));
  await Promise.all(
    Array.from({ length: PARALLEL }, async (_, lane) => {
      for (let at = lane; at < files.length; at += PARALLEL) {
        const path = files[at] ?? '';
        await intakes.addFile(sheet, path, createReadStream(join(root, path)), person);
      }
    }),
  );
  await intakes.carryOutAt(sheet, step.comment, person, new Date(step.at));
}

async function hold(manager: EntityManager, { items, reason, at }: DemoHold, person: Person): Promise<void> {
  const held = await readRows(
    manager,
    { id: text, number: text },
    `INSERT INTO hold (item_id, person_id, since, reason)
     SELECT id, $2, $3, $4 FROM item WHERE number = ANY($1::text[])
     RETURNING item_id AS id, (SELECT number FROM item WHERE id = item_id) AS number`,
    [items, person.id, at, reason],
  );
  await recordQuietly(
    manager,
    held.map(({ id, number }) => ({
      personId: person.id,
      kind: 'check out',
      itemId: id,
      says: `${person.name} checked out ${number}`,
      detail: { reason },
      at: new Date(at),
    })),
  );
}

async function withdraw(
  manager: EntityManager,
  { item, reason, at }: DemoWithdrawal,
  person: Person,
): Promise<void> {
  const [found] = await readRows(
    manager,
    { id: text, version: text },
    `SELECT i.id, r.code || '/' || v.seq AS version FROM item i JOIN version v ON v.id = i.newest_version_id
     JOIN revision r ON r.id = v.revision_id WHERE i.number = $1`,
    [item],
  );
  if (!found) throw new Error(`the demo's history withdraws ${item}, which never came in`);
  await manager.query(
    `UPDATE revision r SET state = 'withdrawn' FROM version v JOIN item i ON i.newest_version_id = v.id
     WHERE r.id = v.revision_id AND i.id = $1`,
    [found.id],
  );
  await recordQuietly(manager, [
    {
      personId: person.id,
      kind: 'step',
      itemId: found.id,
      says: `${person.name} withdrew ${item} ${found.version}: ${reason}`,
      detail: { step: 'withdraw', from: 'released', to: 'withdrawn', version: found.version, reason },
      at: new Date(at),
    },
  ]);
}

/** As whoever did it said it of the newest version then. */
async function sayWhenItCounts(
  app: INestApplication,
  { item, row, planned, actual, at }: DemoEffectivity,
  person: Person,
): Promise<void> {
  const { version, position } = await readRow(
    app.get(DataSource),
    { version: text, position: number },
    `SELECT r.code || '/' || v.seq AS version, l.position FROM item i JOIN version v ON v.id = i.newest_version_id
     JOIN revision r ON r.id = v.revision_id JOIN link l ON l.version_id = v.id JOIN item t ON t.id = l.target_item_id
     WHERE i.number = $1 AND t.number = $2 ORDER BY l.position LIMIT 1`,
    [item, row],
  );
  const rows = [{ position, planned, actual }];
  await app.get(EffectivityService).put({ item: `${item}@${version}`, rows }, person, new Date(at));
}

async function release(database: DataSource, which: DemoFolder['release']): Promise<void> {
  await database.query(
    `UPDATE revision r SET state = 'released' FROM item i JOIN version v ON v.id = i.newest_version_id
     WHERE r.id = v.revision_id AND i.kind NOT IN ('request', 'order') AND ($1 OR i.number = ANY($2::text[]))`,
    [which === 'all', which === 'all' ? [] : which],
  );
  await database.query(
    `UPDATE revision r SET state = 'superseded' WHERE state = 'released' AND EXISTS (
       SELECT 1 FROM revision later WHERE later.item_id = r.item_id AND later.position > r.position AND later.state = 'released')`,
  );
}
