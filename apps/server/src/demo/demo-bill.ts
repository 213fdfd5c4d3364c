import type { INestApplication } from '@nestjs/common';
import { parseAmount, type BuildRow } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { countRows } from '../database/read-rows.js';
import { recordQuietly } from '../trail/record.js';
import { WorkHost } from '../work/work-host.js';
import { issue } from './demo-issue.js';
import type { DemoBill } from './demo-people.js';

/** Makes or carries over a bill of the demo data, adds rows to it, and releases it as things were released then. */
export async function makeBill(app: INestApplication, step: DemoBill, person: Person): Promise<void> {
  const database = app.get(DataSource);
  const work = app.get(WorkHost);
  const { number: bill, item, name, place, added, notes } = step;
  const at = new Date(step.at);
  const isNew = (await countRows(database, 'SELECT FROM item WHERE number = $1', [bill])) === 0;
  if (isNew) await work.ask('build new', { item, lens: 'newest', number: bill, name, place, at }, person);
  else {
    await database.query(
      'INSERT INTO hold (item_id, person_id, reason) SELECT id, $2, $3 FROM item WHERE number = $1',
      [bill, person.id, notes],
    );
    const plan = await work.ask('build carry', { bill }, person);
    const { item: before } = await work.ask('build', { bill }, person);
    await work.ask(
      'build carry out',
      { bill, version: before.version, to: plan.to, decisions: {}, comment: '', at },
      person,
    );
  }
  const now = await work.ask('build', { bill }, person);
  const rows = [
    ...now.bill.rows.map(({ itemId: _, ...row }) => row),
    ...added.map((each, index) => rowOf(each, `${bill} ${step.at} ${index}`)),
  ];
  const { columns, reasons, outputs } = now.bill;
  await work.ask(
    'build save',
    { bill, version: now.item.version, columns, rows, reasons, outputs, comment: notes, at },
    person,
  );
  await release(database, step, person, at);
  await issue(app, [bill], { person, notes, at });
}

function rowOf(
  { name, amount, operation, note }: DemoBill['added'][number],
  id: string,
): Omit<BuildRow, 'itemId'> {
  const said = parseAmount(amount);
  if (!said) throw new Error(`the demo's bill needs ${name} as '${amount}', which is no quantity`);
  return {
    ...{ id, level: 1, kind: 'text', number: '', name, version: '', find: '', designators: '' },
    ...{ amount: said, isPhantom: false, isWhole: false, values: { operation, note } },
  };
}

async function release(
  database: DataSource,
  { number: bill, notes }: DemoBill,
  person: Person,
  at: Date,
): Promise<void> {
  await database.transaction(async (manager) => {
    await manager.query('DELETE FROM hold USING item WHERE hold.item_id = item.id AND item.number = $1', [
      bill,
    ]);
    await manager.query(
      `UPDATE revision r SET state = 'superseded' FROM item i WHERE i.number = $1 AND r.item_id = i.id AND r.state = 'released'`,
      [bill],
    );
    await manager.query(
      `UPDATE revision r SET state = 'released' FROM item i JOIN version v ON v.id = i.newest_version_id
       WHERE i.number = $1 AND r.id = v.revision_id`,
      [bill],
    );
    await manager.query(
      `INSERT INTO bill_release (item_id, version_id, person_id, notes, released_at)
       SELECT id, newest_version_id, $2, $3, $4 FROM item WHERE number = $1`,
      [bill, person.id, notes, at],
    );
    await recordQuietly(manager, [
      {
        personId: person.id,
        kind: 'bill',
        itemId: null,
        says: `${person.name} released ${bill}: ${notes}`,
        at,
      },
    ]);
  });
}
