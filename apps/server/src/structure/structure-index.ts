import { Injectable } from '@nestjs/common';
import {
  askIndex,
  indexOfGraph,
  type IndexAnswers,
  type IndexAsk,
  type IndexQuestionKind,
  type Lens,
  type PageAsk,
  type UsedPage,
} from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { isStructure } from '../database/conditions.js';
import { readRows, text } from '../database/read-rows.js';
import { IndexSource } from '../link-index/index-source.js';
import { StructureLoader } from './structure-loader.js';

/** Behind in the newest versions, as `behindItems` of the core says it. */
const BEHIND = `
  SELECT DISTINCT v.item_id AS id FROM item i JOIN version v ON v.id = i.newest_version_id
  JOIN link l ON l.version_id = v.id AND ${isStructure()} AND NOT l.carried
  JOIN item t ON t.id = l.target_item_id AND t.newest_version_id <> l.target_version_id`;

/**
 * The whole structure, to be asked anything: from memory, or, while that is loading, from the part of it that the
 * question needs.
 */
@Injectable()
export class StructureIndex {
  constructor(
    private readonly host: IndexSource,
    private readonly loader: StructureLoader,
    private readonly database: DataSource,
  ) {}

  async ask<K extends IndexQuestionKind>(ask: IndexAsk<K>): Promise<IndexAnswers[K]> {
    return (await this.host.ask(ask)) ?? (await this.fromDatabase(ask));
  }

  /** A page of what uses an item, in order; undefined while the index is loading, for only the whole of it has the order. */
  async askPage(item: string, lens: Lens, page: PageAsk): Promise<UsedPage | undefined> {
    return this.host.ask({ what: 'page', of: Number(item), lens, levels: 1, page });
  }

  /** The same answer by way of SQL alone. */
  async fromDatabase<K extends IndexQuestionKind>(ask: IndexAsk<K>): Promise<IndexAnswers[K]> {
    if (ask.what === 'behind') {
      const rows = await readRows(this.database, { id: text }, BEHIND);
      return { items: Float64Array.from(rows, ({ id }) => Number(id)) } as IndexAnswers[K];
    }
    return askIndex(indexOfGraph(await this.partFor(ask)), ask);
  }

  private async partFor({
    what,
    of,
    lens,
  }: IndexAsk): Promise<Awaited<ReturnType<StructureLoader['above']>>> {
    if (what === 'made' || what === 'below') return this.loader.below(String(of), lens);
    if (what !== 'above') return this.loader.above(String(of));
    const [row] = await readRows(
      this.database,
      { item: text },
      'SELECT item_id AS item FROM version WHERE id = $1',
      [of],
    );
    return this.loader.above(row?.item ?? '0');
  }
}
