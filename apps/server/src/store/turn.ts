import { Injectable } from '@nestjs/common';
import { Mutex, withTimeout, type MutexInterface } from 'async-mutex';
import { DataSource, type EntityManager } from 'typeorm';
import { DATABASE_LIMITS } from '../database/data-source.js';
import { ProblemError } from '../problems/problem.js';

/** How long somebody waits for a writer before them, here and in other servers. */
const PATIENCE_MS = 120_000;

/**
 * Whoever changes the structure of the store takes turns with all others who do, and whoever moves items from state to
 * state with those who do that. A turn is waited for without a connection: of each process at most one transaction stands
 * in the database's own line.
 */
@Injectable()
export class StoreTurn {
  private readonly writers = withTimeout(new Mutex(), PATIENCE_MS, busy());
  private readonly steps = withTimeout(new Mutex(), PATIENCE_MS, busy());

  constructor(private readonly database: DataSource) {}

  /**
   * Does something in a transaction that no other writer of structure overlaps.
   *
   * @throws ProblemError BUSY where it was not one's turn within two minutes
   */
  async take<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.inLine(this.writers, ['stem-trace store'], work);
  }

  /**
   * As `take`, for moving items from state to state: two steps could close a circle of released versions together that
   * neither closes alone. Writers of structure need not be waited for: what they make is a draft, and a gap that is
   * filled closes no circle through versions of any state.
   */
  async takeForStep<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.inLine(this.steps, ['stem-trace steps'], work);
  }

  /** For steps that also make versions. Nobody who waits for a turn for steps has a writer's already, so that this order is safe. */
  async takeForStepAndWriting<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    return this.steps.runExclusive(() =>
      this.inLine(this.writers, ['stem-trace steps', 'stem-trace store'], work),
    );
  }

  private async inLine<T>(
    line: MutexInterface,
    locks: readonly string[],
    work: (manager: EntityManager) => Promise<T>,
  ): Promise<T> {
    return line.runExclusive(() =>
      this.database.transaction(async (manager) => {
        for (const lock of locks) await awaitTurn(manager, lock);
        return work(manager);
      }),
    );
  }
}

/** Other servers, and this one's work threads, stand in the database's line. */
async function awaitTurn(manager: EntityManager, lock: string): Promise<void> {
  await manager.query(
    `SELECT set_config('lock_timeout', $1, true), set_config('statement_timeout', $1, true)`,
    [`${PATIENCE_MS}ms`],
  );
  await manager.query('SELECT pg_advisory_xact_lock(hashtext($1))', [lock]);
  await manager.query(
    `SELECT set_config('lock_timeout', $1, true), set_config('statement_timeout', $2, true)`,
    [`${DATABASE_LIMITS.lockMs}ms`, `${PATIENCE_MS * 5}ms`],
  );
}

function busy(): ProblemError {
  return new ProblemError(
    'BUSY',
    'Somebody is writing much into the store at this moment. Nothing was changed; try again in a few minutes.',
  );
}

/**
 * Keeps custody and state of items as they are until the transaction ends. Whoever takes, lets go, checks in, revises or
 * steps locks the items first, so that what was read of them holds. Links to them can be written meanwhile.
 *
 * @throws Error 55P03 (lock_not_available) where somebody else is at one of them for longer than the lock timeout
 */
export async function lockItems(manager: EntityManager, itemIds: readonly string[]): Promise<void> {
  // In one order for everybody, so that two never wait for each other.
  await manager.query('SELECT id FROM item WHERE id = ANY($1::bigint[]) ORDER BY id FOR NO KEY UPDATE', [
    itemIds,
  ]);
}
