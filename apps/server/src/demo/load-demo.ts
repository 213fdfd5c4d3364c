import { createReadStream } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { INestApplication } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AccessService } from '../access/access.service.js';
import type { Person } from '../database/entities/person.js';
import { IntakeService } from '../intake/intake.service.js';
import { readHistory, type DemoStep } from './demo-people.js';

/** Fills an empty store with the demo organisation, by the same intake as everybody's, at the times of its history. */
export async function loadDemo(
  app: INestApplication,
  folder: string,
  say: (line: string) => void,
): Promise<void> {
  const access = app.get(AccessService);
  if (await access.hasPeople()) return;
  say('Loading the demo data …');
  const { place, people, history } = await readHistory(folder);
  const byLogin = new Map<string, Person>();
  for (const person of people) byLogin.set(person.login, await access.ensurePerson(person));
  for (const step of history) {
    const person = byLogin.get(step.by);
    if (!person) throw new Error(`the demo's history names '${step.by}', who is not among its people`);
    await bringIn(app.get(IntakeService), {
      step,
      person,
      place,
      folder: join(folder, 'models', step.folder),
    });
    await release(app.get(DataSource), step.release);
  }
}

async function bringIn(
  intakes: IntakeService,
  { step, person, place, folder }: { step: DemoStep; person: Person; place: string; folder: string },
): Promise<void> {
  const sheet = await intakes.create({ place, prefix: '' }, person);
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  for (const entry of entries) {
    if (!entry.isFile()) continue;
    const file = join(entry.parentPath, entry.name);
    await intakes.addFile(sheet.id, file.slice(folder.length + 1), createReadStream(file), person);
  }
  await intakes.carryOutAt(sheet.id, step.comment, person, new Date(step.at));
}

async function release(database: DataSource, which: DemoStep['release']): Promise<void> {
  await database.query(
    `UPDATE revision r SET state = 'released' FROM item i JOIN version v ON v.id = i.newest_version_id
     WHERE r.id = v.revision_id AND ($1 OR i.number = ANY($2::text[]))`,
    [which === 'all', which === 'all' ? [] : which],
  );
  await database.query(
    `UPDATE revision r SET state = 'superseded' WHERE state = 'released' AND EXISTS (
       SELECT 1 FROM revision later WHERE later.item_id = r.item_id AND later.position > r.position AND later.state = 'released')`,
  );
}
