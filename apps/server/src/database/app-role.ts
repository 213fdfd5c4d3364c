/**
 * What the running server may do in the database. It works as a role that owns nothing: what never changes it can add
 * and read, but neither change, delete nor empty, whatever text comes to be run as SQL. Migrations, backup and restore
 * run as the owner.
 */
import type { DataSource } from 'typeorm';
import { QUEUE_SCHEMA } from './queue-schema.js';
import { flag, readRow } from './read-rows.js';

export const APP_ROLE = 'stem_trace_app';

/** Added to and read only. */
const IMMUTABLE = [
  'version',
  'event',
  'seal',
  'migrations',
  'signature',
  'signed_content',
  'baseline',
  'baseline_item',
  'issued_content',
  'lifecycle_version',
  'change_version',
] as const;

/**
 * Makes the role where it is missing and gives it its rights; to be repeated after every migration.
 *
 * @returns false where the database's user may not make roles; then the server works as that user
 */
export async function provideAppRole(database: DataSource): Promise<boolean> {
  if (!(await ensureRole(database))) return false;
  await database.query(`
    GRANT USAGE ON SCHEMA public TO ${APP_ROLE};
    GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO ${APP_ROLE};
    GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO ${APP_ROLE};
    GRANT USAGE ON SCHEMA ${QUEUE_SCHEMA} TO ${APP_ROLE};
    GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA ${QUEUE_SCHEMA} TO ${APP_ROLE};
    REVOKE UPDATE, DELETE ON ${IMMUTABLE.join(', ')} FROM ${APP_ROLE};
    REVOKE INSERT ON seal, migrations FROM ${APP_ROLE};
    REVOKE UPDATE, DELETE ON link FROM ${APP_ROLE};
    -- A gap is filled; a trigger sees to it that this happens to gaps alone.
    GRANT UPDATE (target_item_id, target_version_id) ON link TO ${APP_ROLE};
    REVOKE DELETE ON item, revision, derivation, person FROM ${APP_ROLE};
  `);
  return true;
}

/** Roles belong to the whole cluster, so that another store's server may be making it at this moment. */
async function ensureRole(database: DataSource): Promise<boolean> {
  await database.query(`
    DO $$ BEGIN
      IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = '${APP_ROLE}') THEN
        CREATE ROLE ${APP_ROLE} NOLOGIN;
      END IF;
    EXCEPTION WHEN duplicate_object OR unique_violation OR insufficient_privilege THEN NULL;
    END $$;
    DO $$ BEGIN
      IF NOT pg_has_role(current_user, '${APP_ROLE}', 'MEMBER') THEN
        EXECUTE format('GRANT ${APP_ROLE} TO %I', current_user);
      END IF;
    EXCEPTION WHEN undefined_object OR insufficient_privilege THEN NULL;
    END $$;`);
  const row = await readRow(
    database,
    { may: flag },
    `SELECT EXISTS (SELECT FROM pg_roles WHERE rolname = '${APP_ROLE}' AND pg_has_role(current_user, oid, 'MEMBER')) AS may`,
  );
  return row.may === true;
}
