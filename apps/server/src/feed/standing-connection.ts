import { Logger } from '@nestjs/common';
import { Client } from 'pg';

const AGAIN_MS = 1000;

export interface StandingConnectionOptions {
  readonly databaseUrl: string;
  /** Told to the database, for whoever looks at its connections. */
  readonly name: string;
  /** Done with every new connection before anybody else gets it, e.g. LISTEN. */
  readonly prepare: (client: Client) => Promise<void>;
  /** When it is there again after it was lost: whatever happened meanwhile was not heard. */
  readonly onRegained?: () => void;
}

/** A connection that is there as long as the server is, beside the pool: to listen, or to hold something. */
export class StandingConnection {
  private readonly logger: Logger;
  private current: Client | undefined;
  private isEnded = false;

  constructor(private readonly options: StandingConnectionOptions) {
    this.logger = new Logger(options.name);
  }

  /** Undefined while it is lost. */
  get client(): Client | undefined {
    return this.current;
  }

  async begin(): Promise<void> {
    const { databaseUrl, name, prepare } = this.options;
    const client = new Client({ connectionString: databaseUrl, application_name: `stem-trace ${name}` });
    client.on('error', (error) => this.logger.warn(error.message));
    try {
      await client.connect();
      await prepare(client);
    } catch (error) {
      await client.end().catch(() => undefined);
      throw error;
    }
    this.current = client;
    client.once('end', () => {
      this.current = undefined;
      if (!this.isEnded) void this.regain();
    });
  }

  async end(): Promise<void> {
    this.isEnded = true;
    await this.current?.end();
  }

  private async regain(): Promise<void> {
    while (!this.isEnded) {
      await new Promise((done) => setTimeout(done, AGAIN_MS).unref());
      try {
        await this.begin();
        this.options.onRegained?.();
        return;
      } catch (error) {
        this.logger.warn(error instanceof Error ? error.message : String(error));
      }
    }
  }
}
