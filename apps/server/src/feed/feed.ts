import { Injectable, Logger, type OnModuleDestroy, type OnModuleInit } from '@nestjs/common';
import type { FeedKind } from '@stem-trace/contract';
import { Client, type Notification } from 'pg';
import type { EntityManager } from 'typeorm';

const CHANNEL = 'stem_feed';
const AGAIN_MS = 1000;

/** Tells everybody, once the transaction is committed, that something of these kinds changed. */
export async function announce(manager: EntityManager, ...kinds: readonly FeedKind[]): Promise<void> {
  await manager.query('SELECT pg_notify($1, $2)', [CHANNEL, JSON.stringify(kinds)]);
}

/**
 * What changes in the store, as it happens, from whichever server process it was changed by. Only kinds are told, never
 * what changed: a listener then asks for what it may see.
 */
@Injectable()
export class Feed implements OnModuleInit, OnModuleDestroy {
  private readonly logger = new Logger('feed');
  private readonly listeners = new Set<(kinds: readonly FeedKind[]) => void>();
  private client: Client | undefined;
  private ended = false;

  constructor(private readonly databaseUrl: string) {}

  async onModuleInit(): Promise<void> {
    await this.connect();
  }

  async onModuleDestroy(): Promise<void> {
    this.ended = true;
    await this.client?.end();
  }

  /** @returns a function that ends the listening */
  listen(listener: (kinds: readonly FeedKind[]) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  private async connect(): Promise<void> {
    const client = new Client({ connectionString: this.databaseUrl, application_name: 'stem-trace feed' });
    client.on('notification', ({ payload }: Notification) =>
      this.tell(JSON.parse(payload ?? '[]') as FeedKind[]),
    );
    client.on('error', (error) => this.logger.warn(error.message));
    await client.connect();
    await client.query(`LISTEN ${CHANNEL}`);
    this.client = client;
    client.once('end', () => {
      if (!this.ended) void this.reconnect();
    });
  }

  /** After a lost connection everything may have changed unheard. */
  private async reconnect(): Promise<void> {
    while (!this.ended) {
      await new Promise((done) => setTimeout(done, AGAIN_MS).unref());
      try {
        await this.connect();
        this.tell(['holds', 'items', 'notices']);
        return;
      } catch (error) {
        this.logger.warn(error instanceof Error ? error.message : String(error));
      }
    }
  }

  private tell(kinds: readonly FeedKind[]): void {
    for (const listener of this.listeners) listener(kinds);
  }
}
