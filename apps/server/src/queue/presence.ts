import { randomInt } from 'node:crypto';
import { StandingConnection } from '../feed/standing-connection.js';

/** First half of the keys of all locks that say a server is there. */
export const PRESENCE = 0x57e4;

/**
 * Says in the database that this server is there: a lock that goes with its connection, however the server ends, so that
 * others see at once which jobs nobody does any more.
 */
export class Presence {
  /** Second half of the lock's key; 0 is kept for whoever looks for servers that ended. */
  readonly owner = randomInt(1, 2 ** 31 - 1);
  private readonly connection: StandingConnection;

  constructor(databaseUrl: string) {
    this.connection = new StandingConnection({
      databaseUrl,
      name: 'presence',
      prepare: async (client) => {
        await client.query('SELECT pg_advisory_lock($1, $2)', [PRESENCE, this.owner]);
      },
    });
  }

  begin(): Promise<void> {
    return this.connection.begin();
  }

  end(): Promise<void> {
    return this.connection.end();
  }
}
