import { DataSource, type DataSourceOptions } from 'typeorm';
import { AccessToken } from './entities/access-token.js';
import { Intake, IntakeFileRow } from './entities/intake.js';
import { Person } from './entities/person.js';
import { Store1764000000001 } from './migrations/1-store.js';
import { Custody1764000000002 } from './migrations/2-custody.js';
import { Files1764000000003 } from './migrations/3-files.js';
import { Access1764000000004 } from './migrations/4-access.js';
import { IntakeJobs1764000000005 } from './migrations/5-intake-jobs.js';
import { Likeness1764000000010 } from './migrations/10-likeness.js';
import { CountedInOrder1764000000013 } from './migrations/13-counted-in-order.js';
import { Configurations1764000000014 } from './migrations/14-configurations.js';
import { TrueReferences1764000000015 } from './migrations/15-true-references.js';
import { CommentText1764000000012 } from './migrations/12-comment-text.js';
import { ItemOrder1764000000011 } from './migrations/11-item-order.js';
import { Find1764000000009 } from './migrations/9-find.js';
import { StructureFeed1764000000008 } from './migrations/8-structure-feed.js';
import { Lookups1764000000007 } from './migrations/7-lookups.js';
import { StandFirm1764000000016 } from './migrations/16-stand-firm.js';
import { Jobs1764000000017 } from './migrations/17-jobs.js';
import { Words1764000000018 } from './migrations/18-words.js';
import { EveryDay1764000000019 } from './migrations/19-every-day.js';
import { RollUp1764000000020 } from './migrations/20-roll-up.js';
import { Bom1764000000021 } from './migrations/21-bom.js';
import { Build1764000000022 } from './migrations/22-build.js';
import { Variants1764000000023 } from './migrations/23-variants.js';
import { Templates1764000000024 } from './migrations/24-templates.js';
import { MarkUp1764000000025 } from './migrations/25-mark-up.js';
import { Scenes1764000000026 } from './migrations/26-scenes.js';
import { Lifecycles1764000000027 } from './migrations/27-lifecycles.js';
import { Signatures1764000000028 } from './migrations/28-signatures.js';
import { CheckSheets1764000000029 } from './migrations/29-check-sheets.js';
import { Changes1764000000030 } from './migrations/30-changes.js';
import { Mail1764000000031 } from './migrations/31-mail.js';
import { Webhooks1764000000032 } from './migrations/32-webhooks.js';
import { Reminders1764000000033 } from './migrations/33-reminders.js';
import { RecipeLifecycles1764000000036 } from './migrations/36-recipe-lifecycles.js';
import { Effectivity1764000000037 } from './migrations/37-effectivity.js';
import { StepConsequences1764000000038 } from './migrations/38-step-consequences.js';
import { SiteZone1764000000039 } from './migrations/39-site-zone.js';
import { OrdersTakeEffect1764000000040 } from './migrations/40-orders-take-effect.js';
import { EffectivityFollows1764000000041 } from './migrations/41-effectivity-follows.js';
import { SignedAgain1764000000042 } from './migrations/42-signed-again.js';
import { IssuedContents1764000000043 } from './migrations/43-issued-contents.js';
import { Mentions1764000000044 } from './migrations/44-mentions.js';
import { CheckPeople1764000000035 } from './migrations/35-check-people.js';
import { IssuedFiles1764000000034 } from './migrations/34-issued-files.js';
import { Properties1764000000006 } from './migrations/6-properties.js';
import { APP_ROLE, provideAppRole } from './app-role.js';
import { provideQueue } from './queue-schema.js';
import { PreparedClient } from './prepared-client.js';
import { flag, readRows, text } from './read-rows.js';
import { StoreDataSource } from './store-data-source.js';

/** In the order in which they are run; none is changed once it was published. */
export const MIGRATIONS = [
  Store1764000000001,
  Custody1764000000002,
  Files1764000000003,
  Access1764000000004,
  IntakeJobs1764000000005,
  Properties1764000000006,
  Lookups1764000000007,
  StructureFeed1764000000008,
  Find1764000000009,
  Likeness1764000000010,
  ItemOrder1764000000011,
  CommentText1764000000012,
  CountedInOrder1764000000013,
  Configurations1764000000014,
  TrueReferences1764000000015,
  StandFirm1764000000016,
  Jobs1764000000017,
  Words1764000000018,
  EveryDay1764000000019,
  RollUp1764000000020,
  Bom1764000000021,
  Build1764000000022,
  Variants1764000000023,
  Templates1764000000024,
  MarkUp1764000000025,
  Scenes1764000000026,
  Lifecycles1764000000027,
  Signatures1764000000028,
  CheckSheets1764000000029,
  Changes1764000000030,
  Mail1764000000031,
  Webhooks1764000000032,
  Reminders1764000000033,
  IssuedFiles1764000000034,
  CheckPeople1764000000035,
  RecipeLifecycles1764000000036,
  Effectivity1764000000037,
  StepConsequences1764000000038,
  SiteZone1764000000039,
  OrdersTakeEffect1764000000040,
  EffectivityFollows1764000000041,
  SignedAgain1764000000042,
  IssuedContents1764000000043,
  Mentions1764000000044,
];

/** Connections of one process. Work threads have one or two each of their own. */
export const POOL_SIZE = 10;

/** How long anything of the database may take before whoever asked is told, in milliseconds. */
export const DATABASE_LIMITS = {
  /** For a connection to become free. */
  acquireMs: 10_000,
  /** For a row or another lock; the store's turn waits by a limit of its own. */
  lockMs: 5_000,
  statementMs: 60_000,
  /** For the program, between two statements of a transaction. */
  idleInTransactionMs: 120_000,
} as const;

export interface ConnectOptions {
  readonly poolSize?: number;
  /** Whether to work as the database's owner rather than as the role that can change nothing immutable. */
  readonly isOwner?: boolean;
}

/** Options for a database; migrations only (`migrate`), never synchronised from entities. */
export function dataSourceOptions(
  url: string,
  { poolSize = POOL_SIZE, isOwner = false }: ConnectOptions = {},
): DataSourceOptions {
  const { acquireMs, lockMs, statementMs, idleInTransactionMs } = DATABASE_LIMITS;
  return {
    type: 'postgres',
    url,
    entities: [Person, AccessToken, Intake, IntakeFileRow],
    synchronize: false,
    applicationName: 'stem-trace',
    extra: {
      max: poolSize,
      Client: PreparedClient,
      connectionTimeoutMillis: acquireMs,
      options: [
        // Compiling a query costs more than any query here takes, and no disk of today seeks.
        'jit=off',
        'random_page_cost=1.1',
        `lock_timeout=${lockMs}`,
        `statement_timeout=${statementMs}`,
        `idle_in_transaction_session_timeout=${idleInTransactionMs}`,
        ...(isOwner ? [] : [`role=${APP_ROLE}`]),
      ]
        .map((setting) => `-c ${setting}`)
        .join(' '),
    },
  };
}

/** A store's database as it is: of the newest schema, and guarded against waiting for itself. */
export async function openDatabase(url: string): Promise<StoreDataSource> {
  const { hasAppRole } = await migrate(url);
  const database = await connect(dataSourceOptions(url, { isOwner: !hasAppRole }));
  database.isOwner = !hasAppRole;
  return database;
}

export async function connect(options: DataSourceOptions): Promise<StoreDataSource> {
  const database = new StoreDataSource(options);
  await database.initialize();
  return database;
}

/**
 * Brings the schema up to date, one server at a time.
 *
 * @throws Error where the store was made by a newer version of the program, which this one does not understand
 */
export async function migrate(url: string): Promise<{ readonly hasAppRole: boolean }> {
  const database = new DataSource({
    type: 'postgres',
    url,
    migrations: MIGRATIONS,
    applicationName: 'stem-trace migrations',
    extra: { max: 2 },
  });
  await database.initialize();
  const runner = database.createQueryRunner();
  try {
    await runner.query(`SELECT pg_advisory_lock(hashtext('stem-trace migrations'))`);
    await refuseNewer(database);
    await database.runMigrations({ transaction: 'all' });
    await provideQueue(database);
    return { hasAppRole: await provideAppRole(database) };
  } finally {
    await runner.release();
    await database.destroy();
  }
}

async function refuseNewer(database: DataSource): Promise<void> {
  const [table] = await readRows(
    database,
    { there: flag },
    `SELECT to_regclass('migrations') IS NOT NULL AS there`,
  );
  if (table?.there !== true) return;
  const done = await readRows(database, { name: text }, 'SELECT name FROM migrations ORDER BY timestamp');
  const known = new Set(MIGRATIONS.map(({ name }) => name));
  const unknown = done.filter(({ name }) => !known.has(name)).map(({ name }) => name);
  if (unknown.length > 0)
    throw new Error(
      `This store was made by a newer version of Stem Trace (it has ${unknown.join(', ')}). Start that version, or restore a backup that this one made. Nothing was changed.`,
    );
}
