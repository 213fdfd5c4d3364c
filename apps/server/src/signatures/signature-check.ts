/** Holds every signature against what is there now, and names what was changed since. */
import type { EntityManager } from 'typeorm';
import { number, readRows, text, timeText } from '../database/read-rows.js';
import { digestOf, gapsIn, linesOf } from '../store/contents.js';
import { LABEL } from '../store/item-row.js';
import type { SigningKey } from './signing-key.js';
import { digestOfText, type Statement } from './statement.js';
import { belowLine } from './signatures.service.js';

const BATCH = 500;

interface Row {
  readonly id: string;
  readonly versionId: string;
  readonly item: string;
  readonly version: string;
  readonly step: string;
  readonly login: string;
  readonly name: string;
  readonly at: string;
  readonly zone: string;
  readonly moves: number;
  readonly content: string;
  readonly lines: string;
  readonly statement: string;
  readonly seal: string;
}

/** @returns how many there are, and a sentence for everything that is wrong; `O(rows signed)` */
export async function checkSignatures(
  manager: EntityManager,
  key: SigningKey,
): Promise<{ readonly count: number; readonly faults: string[] }> {
  const faults = [...(await missingSignatures(manager)), ...(await revivedSignatures(manager))];
  // The same content may be signed by several.
  const looked = new Map<string, readonly string[]>();
  let [count, before, after] = [0, '', '0'];
  for (;;) {
    const rows = await signaturesAfter(manager, after);
    if (rows.length === 0) return { count, faults: [...new Set(faults)] };
    for (const row of rows) {
      count++;
      const who = `${row.item} ${row.version}, signed by ${row.name} (${row.step})`;
      for (const fault of await statementFaults(row, before, key)) faults.push(`${who}: ${fault}`);
      before = digestOfText(row.statement);
      const known = looked.get(row.content) ?? (await changesSince(manager, row));
      looked.set(row.content, known);
      faults.push(...known.map((fault) => `${who}: ${fault}`));
    }
    after = rows.at(-1)?.id ?? after;
  }
}

async function signaturesAfter(manager: EntityManager, after: string): Promise<Row[]> {
  return readRows<Row>(
    manager,
    {
      ...{ id: text, versionId: text, item: text, version: text, step: text, login: text, name: text },
      ...{ at: timeText, zone: text, moves: number, content: text, lines: text, statement: text, seal: text },
    },
    `SELECT s.id, s.version_id AS "versionId", i.number AS item, ${LABEL} AS version, s.step, s.login, s.name, s.at, s.zone,
            s.moves, s.content, c.lines, s.statement, s.seal
     FROM signature s JOIN item i ON i.id = s.item_id JOIN version v ON v.id = s.version_id JOIN revision r ON r.id = v.revision_id
     JOIN signed_content c ON c.digest = s.content WHERE s.id > $1 ORDER BY s.id LIMIT ${BATCH}`,
    [after],
  );
}

/** The statement itself: sealed by this store, in its place among the others, and what its row says. */
async function statementFaults(row: Row, before: string, key: SigningKey): Promise<string[]> {
  if (!(await key.isSealed(row.statement, row.seal)))
    return ['the signature is none that this store made, or was changed'];
  const said = JSON.parse(row.statement) as Statement;
  const faults: string[] = [];
  if (said.before !== before) faults.push('a signature before it was taken out or changed');
  const wrong = (['item', 'version', 'step', 'login', 'name', 'at', 'zone', 'content'] as const).filter(
    (name) => said[name] !== row[name],
  );
  faults.push(
    ...wrong.map((name) => `its ${name} is recorded as ${row[name]}, and was signed as ${said[name]}`),
  );
  if (said.format >= 2 && said.moves !== row.moves)
    faults.push('it is recorded for another round of the check than it was signed in');
  if (digestOf(row.lines.split('\n')) !== said.content)
    faults.push('the record of what was signed was changed');
  return faults;
}

/** What was signed against what is there. */
async function changesSince(manager: EntityManager, { versionId, lines }: Row): Promise<string[]> {
  const signed = lines.split('\n');
  const own = signed.filter((line) => !line.startsWith('below '));
  const below = signed.filter((line) => line.startsWith('below '));
  const now = await linesOf(manager, [versionId], new Map([[versionId, gapsIn(own)]]));
  return [...changes(own, now.get(versionId) ?? []), ...(await changedBelow(manager, below))];
}

/** Lines that say the same thing of one: of a link its place, of a property its name. */
function subjectOf(line: string): string {
  const [kind = '', second = ''] = line.split(' ');
  return kind === 'property'
    ? `property ${/"name":"((?:[^"\\]|\\.)*)"/.exec(line)?.[1] ?? ''}`
    : kind === 'link'
      ? `link ${second}`
      : kind;
}

function changes(signed: readonly string[], now: readonly string[]): string[] {
  const [was, is] = [new Set(signed), new Set(now)];
  const gone = signed.filter((line) => !is.has(line));
  const come = now.filter((line) => !was.has(line));
  const paired = new Set<string>();
  const says = gone.map((line) => {
    const other = come.find((each) => subjectOf(each) === subjectOf(line) && !paired.has(each));
    if (other === undefined) return `“${line}” was taken out`;
    paired.add(other);
    return `“${line}” was changed to “${other}”`;
  });
  return [...says, ...come.flatMap((line) => (paired.has(line) ? [] : `“${line}” was put in`))];
}

const BELOW = /^below \w+ (.+) (\S+\/\d+) [0-9a-f]{64}$/;

async function changedBelow(manager: EntityManager, signed: readonly string[]): Promise<string[]> {
  const named = signed.flatMap((line) => {
    const [, item, version] = BELOW.exec(line) ?? [];
    return item === undefined || version === undefined ? [] : [{ line, item, version }];
  });
  const found = await readRows(
    manager,
    { id: text, at: number },
    `SELECT v.id, w.at::int AS at FROM unnest($1::text[], $2::text[]) WITH ORDINALITY AS w(item, version, at)
     JOIN item i ON i.number = w.item JOIN version v ON v.item_id = i.id JOIN revision r ON r.id = v.revision_id
     WHERE ${LABEL} = w.version`,
    [named.map(({ item }) => item), named.map(({ version }) => version)],
  );
  const ids = new Map(found.map(({ id, at }) => [at - 1, id]));
  const lines = await linesOf(manager, [...ids.values()]);
  return named.flatMap(({ line, item, version }, at) => {
    const now = lines.get(ids.get(at) ?? '');
    if (!now) return [`${item} ${version}, which was below it, is gone`];
    return belowLine(now) === line ? [] : [`${item} ${version}, which is below it, was changed`];
  });
}

/** Steps that were signed, of which the trail knows more signatures than there are. */
async function missingSignatures(manager: EntityManager): Promise<string[]> {
  const rows = await readRows(
    manager,
    { what: text },
    `SELECT i.number || ' ' || (e.detail->>'version') || ', ' || (e.detail->>'step') AS what
     FROM event e JOIN item i ON i.id = e.item_id
     WHERE e.kind IN ('step', 'signature') AND e.detail ? 'statement'
       AND NOT EXISTS (SELECT FROM signature s WHERE s.item_id = e.item_id
         AND encode(sha256(convert_to(s.statement, 'UTF8')), 'hex') = e.detail->>'statement')`,
  );
  return rows.map(({ what }) => `${what}: a signature that the trail knows of is gone or was changed`);
}

/**
 * Signatures that count for where a revision is now, though the sealed trail has a step of it after them: the revision's counter of
 * moves, or that of the signature, was set back.
 */
async function revivedSignatures(manager: EntityManager): Promise<string[]> {
  const rows = await readRows(
    manager,
    { what: text },
    `SELECT DISTINCT i.number || ' ' || ${LABEL} || ', signed by ' || s.name AS what
     FROM signature s JOIN revision r ON r.id = s.revision_id AND r.moves = s.moves
     JOIN version v ON v.id = s.version_id JOIN item i ON i.id = s.item_id
     JOIN event e ON e.item_id = s.item_id AND e.kind = 'step' AND e.detail->>'version' LIKE r.code || '/%'
     JOIN event own ON own.item_id = s.item_id AND own.detail->>'statement' = encode(sha256(convert_to(s.statement, 'UTF8')), 'hex')
     WHERE e.id > own.id`,
  );
  return rows.map(({ what }) => `${what}: the signature is void since a later step, but counts again`);
}
