import type { INestApplication } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { Person } from '../database/entities/person.js';
import { MarkUpService } from '../mark-up/mark-up.service.js';
import type { DemoMarks } from './demo-people.js';

/** Between what is drawn and what is answered. */
const STEP_MS = 50 * 60_000;

/** Draws on an item at the time of the demo's history, and answers a while later. */
export async function drawOn(
  app: INestApplication,
  { item, marks, at }: DemoMarks,
  person: Person,
): Promise<void> {
  const service = app.get(MarkUpService);
  const people = app.get(DataSource).getRepository(Person);
  let time = Date.parse(at);
  const later = (): Date => new Date((time += STEP_MS));
  for (const { answers, isSettled, ...mark } of marks) {
    const { id } = await service.add({ item, ...mark }, person, later());
    for (const { by, words } of answers)
      await service.remark({ id, words }, await people.findOneByOrFail({ login: by }), later());
    if (isSettled) await service.settle({ id, isSettled }, person, later());
  }
  // Long ago, and read since.
  await app
    .get(DataSource)
    .query('UPDATE notice SET read_at = now() WHERE item_id = (SELECT id FROM item WHERE number = $1)', [
      item,
    ]);
}
