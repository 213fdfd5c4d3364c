import { Injectable, type OnModuleDestroy, type OnModuleInit } from '@nestjs/common';
import type { FeedKind } from '@stem-trace/contract';
import type { Notification } from 'pg';
import type { EntityManager } from 'typeorm';
import { StandingConnection } from './standing-connection.js';

const CHANNEL = 'stem_feed';
const EVERYTHING: readonly FeedKind[] = ['holds', 'items', 'notices', 'jobs', 'shapes', 'marks', 'scenes'];

/** Tells everybody, once the transaction is committed, that something of these kinds changed. */
export async function announce(
  manager: Pick<EntityManager, 'query'>,
  ...kinds: readonly FeedKind[]
): Promise<void> {
  await manager.query('SELECT pg_notify($1, $2)', [CHANNEL, JSON.stringify(kinds)]);
}

/**
 * What changes in the store, as it happens, from whichever server process it was changed by. Only kinds are told, never
 * what changed: a listener then asks for what it may see.
 */
@Injectable()
export class Feed implements OnModuleInit, OnModuleDestroy {
  private readonly listeners = new Set<(kinds: readonly FeedKind[]) => void>();
  private readonly connection: StandingConnection;

  /** @param heard waits until this server knows of all that was committed before; see `tell` */
  constructor(
    databaseUrl: string,
    private readonly heard: () => Promise<void> = () => Promise.resolve(),
  ) {
    this.connection = new StandingConnection({
      databaseUrl,
      name: 'feed',
      prepare: async (client) => {
        client.on(
          'notification',
          ({ payload }: Notification) => void this.tell(JSON.parse(payload ?? '[]') as FeedKind[]),
        );
        await client.query(`LISTEN ${CHANNEL}`);
      },
      onRegained: () => void this.tell(EVERYTHING),
    });
  }

  async onModuleInit(): Promise<void> {
    await this.connection.begin();
  }

  async onModuleDestroy(): Promise<void> {
    await this.connection.end();
  }

  /** @returns a function that ends the listening */
  listen(listener: (kinds: readonly FeedKind[]) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /**
   * Whoever is told asks again at once. That answer must not come from memory because the word that memory is out of date
   * comes over another connection, and later.
   */
  private async tell(kinds: readonly FeedKind[]): Promise<void> {
    await this.heard();
    for (const listener of this.listeners) listener(kinds);
  }
}
