/** Where the queue of jobs (pg-boss) keeps them, and how it speaks to a database that others use too. */
import PgBoss from 'pg-boss';
import { JOB_KINDS } from '@stem-trace/contract';
import { EntityManager, type DataSource, type QueryResult } from 'typeorm';

/** A schema of its own in the store's database, so that a job can be sent in the transaction that makes it necessary. */
export const QUEUE_SCHEMA = 'queue';

const DAY_S = 24 * 60 * 60;

/**
 * Makes the queue's tables, or brings them to what this version of the library expects, and one table for each kind of job.
 * To be repeated after every migration, as the database's owner.
 */
export async function provideQueue(database: DataSource): Promise<void> {
  const boss = new PgBoss({
    db: executor(database),
    schema: QUEUE_SCHEMA,
    supervise: false,
    schedule: false,
  });
  await boss.start();
  for (const kind of JOB_KINDS) {
    // A job whose server ended is begun anew (`JobQueue`), so this is for those that stand still without an end.
    await boss.createQueue(kind, { name: kind, expireInSeconds: DAY_S - 1, retryLimit: 20 });
  }
  await boss.stop({ graceful: false });
}

/**
 * What pg-boss asks goes the way of everything else that is asked: same connections, same role, and where a manager is given,
 * in its transaction.
 */
export function executor(database: DataSource | EntityManager): PgBoss.Db {
  return {
    async executeSql(text: string, values?: unknown[]) {
      if (database instanceof EntityManager) {
        if (!database.queryRunner) throw new Error('a job is sent by a manager that is in no transaction');
        return rowsOf(await database.queryRunner.query(text, values, true));
      }
      const runner = database.createQueryRunner();
      try {
        return rowsOf(await runner.query(text, values, true));
      } finally {
        await runner.release();
      }
    },
  };
}

function rowsOf({ records }: QueryResult): { rows: unknown[] } {
  return { rows: records ?? [] };
}
