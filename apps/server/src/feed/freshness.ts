import { Injectable, type OnModuleDestroy, type OnModuleInit } from '@nestjs/common';
import type { Notification } from 'pg';
import { DataSource } from 'typeorm';
import { StoreDataSource } from '../database/store-data-source.js';
import { StandingConnection } from './standing-connection.js';

const CHANNEL = 'stem_fresh';

/** What may be kept in memory: answers about the store, or who may come in and do what. */
export type FreshTopic = 'store' | 'access';

/** What was read under a mark is true while the mark stays. */
export abstract class Marks {
  /** @returns undefined while it is not known; then nothing may be taken from memory, nor kept */
  abstract mark(topic: FreshTopic): number | undefined;
}

/** For whoever keeps nothing. */
export class NoMarks extends Marks {
  mark(): undefined {
    return undefined;
  }
}

/**
 * Says how long something that was read may be kept. Every statement that changes what answers depend on tells so from
 * within the database (triggers of migration 16), whichever server it was; what this server wrote itself is waited for
 * before anything is taken from memory again, so that whoever changed something sees it at once.
 */
@Injectable()
export class Freshness extends Marks implements OnModuleInit, OnModuleDestroy {
  private readonly counts: Record<FreshTopic, number> = { store: 0, access: 0 };
  private readonly listeners = new Map<FreshTopic, Set<() => void>>();
  private readonly connection: StandingConnection;
  /** Writes of this server of which it is not known yet whether all that they changed was heard. */
  private unheard = 0;
  private asking: Promise<void> | undefined;
  private next: Promise<void> | undefined;

  constructor(
    databaseUrl: string,
    private readonly database: DataSource,
  ) {
    super();
    this.connection = new StandingConnection({
      databaseUrl,
      name: 'freshness',
      prepare: async (client) => {
        client.on('notification', ({ payload }: Notification) =>
          this.count(payload === 'access' ? 'access' : 'store'),
        );
        await client.query(`LISTEN ${CHANNEL}`);
        // What changed before somebody listened is not known.
        this.count('store');
        this.count('access');
      },
    });
  }

  async onModuleInit(): Promise<void> {
    await this.connection.begin();
    if (this.database instanceof StoreDataSource) this.database.onWritten(() => void this.settle());
  }

  async onModuleDestroy(): Promise<void> {
    await this.connection.end();
  }

  /** Another one as soon as anything of the topic changed. */
  mark(topic: FreshTopic): number | undefined {
    return this.connection.client && this.unheard === 0 ? this.counts[topic] : undefined;
  }

  /** @returns a function that ends the listening */
  onChange(topic: FreshTopic, listener: () => void): () => void {
    const listeners = this.listeners.get(topic) ?? new Set();
    this.listeners.set(topic, listeners.add(listener));
    return () => listeners.delete(listener);
  }

  /**
   * Waits until all is heard that was committed before. PostgreSQL hands a listener what was told before it answers the
   * listener's next statement (manual, NOTIFY).
   */
  async settle(): Promise<void> {
    this.unheard++;
    // A statement that is under way may have been sent before what is waited for; the next one was not.
    this.next ??= (this.asking ?? Promise.resolve()).then(() => {
      this.asking = this.next;
      this.next = undefined;
      return this.ask();
    });
    await this.next.finally(() => this.unheard--);
  }

  private async ask(): Promise<void> {
    // Where the connection is gone, `end` sees to it that nothing is kept.
    await this.connection.client?.query('SELECT 1').catch(() => undefined);
  }

  private count(topic: FreshTopic): void {
    this.counts[topic]++;
    for (const listener of this.listeners.get(topic) ?? []) listener();
  }
}
