import type { INestApplication } from '@nestjs/common';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { OrdersService } from '../wish/orders.service.js';
import { WorkHost } from '../work/work-host.js';
import type { DemoWishes } from './demo-people.js';

/** Makes a recipe of the demo data, and what its wish sheets ask for, at the times of the demo's history. */
export async function fulfilWishes(app: INestApplication, step: DemoWishes, person: Person): Promise<void> {
  const work = app.get(WorkHost);
  const { item, number, name, place, recipe, sheets } = step;
  const at = new Date(step.at);
  const { version } = await work.ask('recipe new', { item, number, name, place, at }, person);
  await work.ask(
    'recipe save',
    { item: number, version, recipe, comment: 'Rules for stations to order', at },
    person,
  );
  const database = app.get(DataSource);
  await database.query(
    'DELETE FROM hold WHERE person_id = $1 AND item_id = (SELECT id FROM item WHERE number = $2)',
    [person.id, number],
  );
  for (const [index, sheet] of sheets.entries()) {
    const then = new Date(at.getTime() + (index + 1) * DAY_MS);
    await app.get(OrdersService).fulfil({ recipe: number, sheet }, person, then);
  }
}

const DAY_MS = 24 * 60 * 60 * 1000;
