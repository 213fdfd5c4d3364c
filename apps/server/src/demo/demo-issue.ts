import type { INestApplication } from '@nestjs/common';
import { SHIPPED } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { listOf, readRow, text } from '../database/read-rows.js';
import { IssuedService, type Releasing } from '../issued/issued.service.js';
import { SignaturesService } from '../signatures/signatures.service.js';
import { releasedBelow } from '../store/baseline.js';
import { CatalogueService } from '../store/catalogue.service.js';

const RELEASE = SHIPPED.steps.find(({ then }) => then.some(({ kind }) => kind === 'issue'));

/** What a release leaves of items that the demo's history released: baselines, and issued files that are made once the server runs. */
export async function issue(
  app: INestApplication,
  numbers: readonly string[],
  releasing: Releasing,
): Promise<void> {
  await app.get(DataSource).transaction(async (manager) => {
    const { ids } = await readRow(
      manager,
      { ids: listOf(text) },
      'SELECT array_agg(id::text) AS ids FROM item WHERE number = ANY($1::text[])',
      [numbers],
    );
    const items = await app.get(CatalogueService).newestOf(ids, manager);
    const versions = items.map(({ id }) => id);
    const below = await releasedBelow(manager, versions, new Map());
    await app.get(SignaturesService).freeze(manager, versions, below, releasing.at);
    if (RELEASE)
      await app.get(IssuedService).begin(
        manager,
        items.map((item) => ({ item, step: RELEASE })),
        releasing,
      );
  });
}
