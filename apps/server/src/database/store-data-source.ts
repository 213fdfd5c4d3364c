import { AsyncLocalStorage } from 'node:async_hooks';
import { DataSource, type EntityManager, type QueryRunner } from 'typeorm';

type IsolationLevel = Parameters<EntityManager['transaction']>[0];
type Work<T> = (manager: EntityManager) => Promise<T>;

/** The transaction that the code which runs is part of. */
interface Held {
  hasEnded: boolean;
}

const transactions = new AsyncLocalStorage<Held>();

/**
 * The database, which gives nobody a second connection while one is held: if as many wait like that as there are
 * connections, all of them wait for ever. What belongs to a transaction goes through its manager; asking anything else
 * meanwhile is a fault of the program and fails at once, whatever the load.
 */
export class StoreDataSource extends DataSource {
  /** Whether the server works as the database's owner, since there is no role of its own for it. */
  isOwner = false;
  private readonly writtenListeners = new Set<() => void>();

  /** Tells whenever something that this process wrote has been committed, before whoever wrote it goes on. */
  onWritten(listener: () => void): void {
    this.writtenListeners.add(listener);
  }

  override transaction<T>(work: Work<T>): Promise<T>;
  override transaction<T>(isolation: IsolationLevel, work: Work<T>): Promise<T>;
  override async transaction<T>(first: IsolationLevel | Work<T>, second?: Work<T>): Promise<T> {
    const work = typeof first === 'function' ? first : second;
    if (!work) throw new TypeError('a transaction needs something to do');
    const held: Held = { hasEnded: false };
    const inside: Work<T> = (manager) => transactions.run(held, () => work(manager));
    try {
      return await (typeof first === 'function'
        ? super.transaction(inside)
        : super.transaction(first as 'SERIALIZABLE', inside));
    } finally {
      held.hasEnded = true;
    }
  }

  override createQueryRunner(mode?: 'master' | 'slave'): QueryRunner {
    if (transactions.getStore()?.hasEnded === false)
      throw new Error('a second connection was asked for inside a transaction; use its manager');
    const runner = super.createQueryRunner(mode);
    const query = runner.query.bind(runner) as (sql: string, ...rest: unknown[]) => Promise<unknown>;
    const listened = async (sql: string, ...rest: unknown[]): Promise<unknown> => {
      const result = await query(sql, ...rest);
      if (sql === 'COMMIT' || (!runner.isTransactionActive && mayWrite(sql)))
        for (const listener of this.writtenListeners) listener();
      return result;
    };
    runner.query = listened as QueryRunner['query'];
    return runner;
  }
}

/** Whether a statement may change rows; one that only says so in a text does no harm. */
function mayWrite(sql: string): boolean {
  return /\b(INSERT|UPDATE|DELETE|TRUNCATE|ALTER|CREATE|DROP)\b/i.test(sql);
}

/** Starts something that belongs to no transaction, though one may be under way here. */
export function outsideTransactions<T>(work: () => T): T {
  return transactions.run({ hasEnded: true }, work);
}
