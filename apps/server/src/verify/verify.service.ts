import { createHash } from 'node:crypto';
import { pipeline } from 'node:stream/promises';
import { Injectable } from '@nestjs/common';
import type { VerifyAnswer } from '@stem-trace/contract';
import { ROLLED_UP } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { checkSeals } from '../audit/seal-chain.js';
import { BlobStore } from '../blobs/blob-store.js';
import { ChangeFiles } from '../changes/change-contents.js';
import { checkChanges } from '../changes/check-changes.js';
import { isOpen, isStructure } from '../database/conditions.js';
import { flag, number, readRow, readRows, text } from '../database/read-rows.js';
import { checkSignatures } from '../signatures/signature-check.js';
import { SigningKey } from '../signatures/signing-key.js';
import { findCircle, type CircleLens } from '../store/circles.js';

/** A rule that the rows of the store keep, as a query for those that break it. */
interface Rule {
  readonly says: string;
  /** Gives `what` for each row that breaks it. */
  readonly sql: string;
}

/** Properties that are sums where something is made of something. */
const ADDED_UP = `ARRAY[${ROLLED_UP.map(({ key }) => `'${key}'`).join(', ')}]`;

const RULES: readonly Rule[] = [
  {
    says: 'every item has a version, and knows its newest',
    sql: `SELECT i.number AS what FROM item i LEFT JOIN LATERAL (
            SELECT id FROM version WHERE item_id = i.id ORDER BY ordinal DESC LIMIT 1) n ON true
          WHERE i.newest_version_id IS DISTINCT FROM n.id OR n.id IS NULL`,
  },
  {
    says: 'versions of an item are counted without holes',
    sql: `SELECT i.number AS what FROM version v JOIN item i ON i.id = v.item_id
          GROUP BY i.id HAVING min(v.ordinal) <> 1 OR max(v.ordinal) <> count(*)`,
  },
  {
    says: 'versions of a revision are counted without holes',
    sql: `SELECT i.number || ' ' || r.code AS what FROM version v JOIN revision r ON r.id = v.revision_id JOIN item i ON i.id = r.item_id
          GROUP BY i.id, r.id HAVING min(v.seq) <> 1 OR max(v.seq) <> count(*)`,
  },
  {
    says: 'every revision has a version',
    sql: `SELECT i.number || ' ' || r.code AS what FROM revision r JOIN item i ON i.id = r.item_id
          WHERE NOT EXISTS (SELECT 1 FROM version WHERE revision_id = r.id)`,
  },
  {
    says: 'a link records a version of the item that it leads to',
    sql: `SELECT i.number AS what FROM link l JOIN version t ON t.id = l.target_version_id JOIN version v ON v.id = l.version_id
          JOIN item i ON i.id = v.item_id WHERE t.item_id <> l.target_item_id`,
  },
  {
    says: 'a link within a file leads to what lives in the same file',
    sql: `SELECT i.number AS what FROM link l JOIN version t ON t.id = l.target_version_id JOIN version v ON v.id = l.version_id
          JOIN item i ON i.id = v.item_id
          WHERE l.carried AND coalesce(t.carrier_version_id, t.id) <> coalesce(v.carrier_version_id, v.id)`,
  },
  {
    says: 'what lives in a file has the content of its carrier',
    sql: `SELECT i.number AS what FROM version v JOIN version c ON c.id = v.carrier_version_id JOIN item i ON i.id = v.item_id
          WHERE c.sha256 <> v.sha256 OR c.carrier_version_id IS NOT NULL`,
  },
  {
    says: 'a copied item has an origin of its stem',
    sql: `SELECT i.number AS what FROM item i LEFT JOIN version o ON o.id = i.origin_version_id LEFT JOIN item oi ON oi.id = o.item_id
          WHERE i.derivation_id IS NOT NULL AND (oi.id IS NULL OR i.stem_id IS DISTINCT FROM coalesce(oi.stem_id, oi.id))`,
  },
  {
    says: 'only what is open for change is held',
    sql: `SELECT i.number AS what FROM hold h JOIN item i ON i.id = h.item_id JOIN version v ON v.id = i.newest_version_id
          JOIN revision r ON r.id = v.revision_id WHERE NOT (${isOpen('r')})`,
  },
  {
    says: 'every revision stands in a state of its lifecycle',
    sql: `SELECT i.number || ' ' || r.code AS what FROM revision r JOIN item i ON i.id = r.item_id
          JOIN lifecycle_version c ON c.id = r.lifecycle_version_id
          WHERE NOT EXISTS (SELECT FROM jsonb_array_elements(c.diagram->'states') s WHERE s->>'name' = r.state)`,
  },
  {
    says: 'state, author and time of the newest version stand beside the item',
    sql: `SELECT i.number AS what FROM item i JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
          WHERE (i.state, i.author_id, i.changed_at) IS DISTINCT FROM (r.state, v.author_id, v.created_at)`,
  },
  {
    says: 'comments of all versions stand beside the item',
    sql: `SELECT i.number AS what FROM item i LEFT JOIN LATERAL (
            SELECT string_agg(DISTINCT lower(v.comment), E'\\n') AS text FROM version v WHERE v.item_id = i.id AND v.comment <> '') c ON true
          WHERE i.newest_version_id IS NOT NULL AND i.comment_text <> coalesce(c.text, '')`,
  },
  {
    says: 'properties are looked up as its newest version has them',
    sql: `SELECT i.number AS what FROM item i JOIN version v ON v.id = i.newest_version_id
          JOIN revision r ON r.id = v.revision_id
          LEFT JOIN LATERAL (SELECT array_agg(DISTINCT lower(p->>'name') ORDER BY lower(p->>'name')) AS keys
            FROM jsonb_array_elements(coalesce(v.facts->'properties', '[]') || r.set_values) p
            WHERE coalesce(p->>'text', p->>'value', p->>'choice', p->>'date', p->>'yes') <> '' AND lower(p->>'name') <> ALL(${ADDED_UP})) said ON true
          LEFT JOIN LATERAL (SELECT array_agg(key ORDER BY key) AS keys FROM item_property WHERE item_id = i.id AND key <> ALL(${ADDED_UP})) kept ON true
          WHERE said.keys IS DISTINCT FROM kept.keys`,
  },
  {
    // Where something waits to be added up, or a file holds an older part than the store, a look at one level does not tell.
    says: 'an assembly weighs and costs what it is made of',
    sql: `WITH line AS (
            SELECT i.id, i.number, u.key, l.quantity * coalesce(below.value,
                CASE WHEN p.unit IN ('kg', u.unit) OR u.unit = '' THEN p.number END, 0) AS value
            FROM item i
            CROSS JOIN (SELECT 'mass' AS key, 'kg' AS unit UNION ALL
              SELECT 'cost', coalesce((SELECT unit FROM property_known WHERE key = 'cost'), '')) u
            JOIN link l ON l.version_id = i.newest_version_id AND ${isStructure()}
            LEFT JOIN item t ON t.id = l.target_item_id
            LEFT JOIN roll_up below ON below.item_id = t.id AND below.key = u.key
            LEFT JOIN item_property p ON p.item_id = t.id AND p.key = u.key AND NOT p.rolled)
          SELECT DISTINCT line.number AS what FROM line LEFT JOIN roll_up sum ON sum.item_id = line.id AND sum.key = line.key
          WHERE NOT EXISTS (SELECT FROM roll_up_due)
            AND EXISTS (SELECT FROM link l JOIN item i ON i.newest_version_id = l.version_id JOIN item t ON t.id = l.target_item_id
              WHERE i.id = line.id AND ${isStructure()} AND t.kind NOT IN ('drawing', 'document'))
            AND NOT EXISTS (SELECT FROM link l JOIN item i ON i.newest_version_id = l.version_id JOIN item t ON t.id = l.target_item_id
              WHERE i.id = line.id AND l.carried AND l.target_version_id <> t.newest_version_id)
          GROUP BY line.id, line.number, line.key, sum.value
          HAVING sum.value IS NULL OR abs(sum(line.value) - sum.value) > 1e-9 * (1 + abs(sum.value))`,
  },
  {
    says: 'numbers are unique without regard to case',
    sql: `SELECT min(number) AS what FROM item GROUP BY lower(number) HAVING count(*) > 1`,
  },
  {
    says: 'a model is an assembly where its newest version is made of something, else a part',
    sql: `SELECT i.number AS what FROM item i WHERE i.kind IN ('part', 'assembly') AND (i.kind = 'assembly') <> EXISTS (
            SELECT 1 FROM link l WHERE l.version_id = i.newest_version_id AND l.relation = 'component')`,
  },
  {
    says: 'every version that has a file of its own has a name to come out under',
    sql: `SELECT DISTINCT i.number AS what FROM version v JOIN item i ON i.id = v.item_id
          WHERE v.carrier_version_id IS NULL AND i.file_name = ''`,
  },
  {
    says: 'a product of a file is one item’s version only',
    sql: `SELECT min(i.number) || ' and ' || max(i.number) AS what FROM version v JOIN item i ON i.id = v.item_id
          GROUP BY coalesce(v.carrier_version_id, v.id), v.product_ref HAVING count(*) > 1`,
  },
];

/** Lenses under which the whole store is looked through for what contains itself. */
const CIRCLE_LENSES: readonly CircleLens[] = ['newest', 'recorded', 'released'];

const FAULTS_SHOWN = 100;

/** Proves that the store is whole: every rule over its rows, every blob there and hashing to its name. */
@Injectable()
export class VerifyService {
  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly key: SigningKey,
  ) {}

  async verify(): Promise<VerifyAnswer> {
    const faults: string[] = [];
    for (const { says, sql } of RULES) {
      const broken = await readRows(this.database, { what: text }, `${sql} LIMIT ${FAULTS_SHOWN}`);
      faults.push(...broken.map(({ what }) => `${what}: violates: ${says}`));
    }
    faults.push(...(await this.circles()));
    faults.push(...(await checkSeals(this.database.manager)));
    for (const number of await checkChanges(this.database.manager, new ChangeFiles(this.blobs)))
      faults.push(`${number}: violates: what a change says stands beside it as its file says it`);
    const signatures = await checkSignatures(this.database.manager, this.key);
    faults.push(...signatures.faults);
    const blobs = await readRows(
      this.database,
      { sha256: text, size: text },
      'SELECT sha256, size FROM blob ORDER BY sha256',
    );
    for (const { sha256, size } of blobs) {
      const fault = await this.blobFault(sha256, Number(size));
      if (fault !== undefined) faults.push(`blob ${sha256}: ${fault}`);
    }
    const counts = await readRow(
      this.database,
      { items: number, versions: number, links: number, gaps: number, holds: number },
      `SELECT (SELECT count(*)::int FROM item) AS items, (SELECT count(*)::int FROM version) AS versions,
              (SELECT count(*)::int FROM link) AS links, (SELECT count(*)::int FROM link WHERE target_item_id IS NULL) AS gaps,
              (SELECT count(*)::int FROM hold) AS holds`,
    );
    return {
      whole: faults.length === 0,
      blobs: blobs.length,
      signatures: signatures.count,
      ...(counts ?? { items: 0, versions: 0, links: 0, gaps: 0, holds: 0 }),
      faults,
    };
  }

  private async circles(): Promise<string[]> {
    const { manager } = this.database;
    const versions = await readRows(
      manager,
      { id: text, isNewest: flag },
      `SELECT v.id, v.id IS NOT DISTINCT FROM i.newest_version_id AS "isNewest" FROM version v JOIN item i ON i.id = v.item_id ORDER BY v.id`,
    );
    const faults: string[] = [];
    for (const lens of CIRCLE_LENSES) {
      const starts = versions.filter(({ isNewest }) => isNewest || lens !== 'newest').map(({ id }) => id);
      const circle = await findCircle(manager, starts, lens);
      if (circle.length === 0) continue;
      const chain = await readRows(
        manager,
        { number: text },
        'SELECT i.number FROM unnest($1::bigint[]) WITH ORDINALITY AS c(id, at) JOIN version v ON v.id = c.id JOIN item i ON i.id = v.item_id ORDER BY c.at',
        [circle],
      );
      faults.push(
        `${chain.map(({ number }) => number).join(' › ')} › ${chain[0]?.number ?? ''}: violates: nothing contains itself, under the lens ${lens}`,
      );
    }
    return faults;
  }

  private async blobFault(sha256: string, size: number): Promise<string | undefined> {
    if (!(await this.blobs.has(sha256))) return 'is not on the disk';
    const hash = createHash('sha256');
    let bytes = 0;
    await pipeline(this.blobs.stream(sha256), async (content: AsyncIterable<Buffer>) => {
      for await (const chunk of content) {
        bytes += chunk.length;
        hash.update(chunk);
      }
    });
    return hash.digest('hex') === sha256 && bytes === size
      ? undefined
      : 'has another content than it was stored with';
  }
}
