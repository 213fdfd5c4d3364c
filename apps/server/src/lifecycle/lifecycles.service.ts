import { Injectable } from '@nestjs/common';
import type {
  LifecycleChecked,
  LifecycleDraft,
  LifecycleRow,
  LifecyclesAnswer,
  LifecycleScope,
  LifecycleVersionRow,
  StandingCount,
} from '@stem-trace/contract';
import { checkDiagram, type Diagram, type LifecycleRole } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import { json, number, orNull, readRow, readRows, text, timeText } from '../database/read-rows.js';
import { stateBook } from '../database/state-book.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { record } from '../trail/record.js';

/** Lifecycles as an administrator changes them: each in versions, of which none ever changes. */
@Injectable()
export class LifecyclesService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
  ) {}

  /** As `all`, without scopes of places that the reader may not see. */
  async listFor(person: Person): Promise<LifecyclesAnswer> {
    return this.all(this.database.manager, (await this.rights.of(person)).placesWithout('see'));
  }

  async all(
    manager: EntityManager = this.database.manager,
    hidden: readonly string[] = [],
  ): Promise<LifecyclesAnswer> {
    const lifecycles = await readRows<LifecycleRow>(
      manager,
      {
        id: text,
        version: number,
        diagram: json<Diagram>(),
        scopes: json<readonly LifecycleScope[]>(),
        changedBy: orNull(text),
        changedAt: timeText,
        comment: text,
        standing: json<readonly StandingCount[]>(),
      },
      `SELECT c.id, v.seq AS version, v.diagram, v.comment, p.name AS "changedBy", v.at AS "changedAt",
              coalesce((SELECT jsonb_agg(jsonb_build_object('kind', s.kind, 'class', k.name, 'place', q.path)
                  ORDER BY k.name, s.kind, q.path)
                FROM lifecycle_scope s LEFT JOIN class k ON k.id = s.class_id LEFT JOIN place q ON q.id = s.place_id
                WHERE s.lifecycle_id = c.id AND (s.place_id IS NULL OR s.place_id <> ALL($1::bigint[]))), '[]') AS scopes,
              coalesce((SELECT jsonb_agg(jsonb_build_object('version', n.seq, 'state', n.state, 'count', n.count) ORDER BY n.seq, n.state)
                FROM (SELECT w.seq, r.state, count(*) FROM revision r JOIN lifecycle_version w ON w.id = r.lifecycle_version_id
                  WHERE w.lifecycle_id = c.id GROUP BY w.seq, r.state) n), '[]') AS standing
       FROM lifecycle c JOIN LATERAL (SELECT * FROM lifecycle_version WHERE lifecycle_id = c.id ORDER BY seq DESC LIMIT 1) v ON true
       LEFT JOIN person p ON p.id = v.person_id ORDER BY c.id`,
      [hidden],
    );
    return { states: [...(await stateBook(manager)).values()], lifecycles };
  }

  /** Newest first. @throws ProblemError NOT_FOUND */
  async versions(id: string): Promise<LifecycleVersionRow[]> {
    const rows = await readRows<LifecycleVersionRow>(
      this.database,
      { version: number, by: orNull(text), at: timeText, comment: text, diagram: json<Diagram>() },
      `SELECT v.seq AS version, p.name AS by, v.at, v.comment, v.diagram FROM lifecycle_version v
       LEFT JOIN person p ON p.id = v.person_id WHERE v.lifecycle_id = $1 ORDER BY v.seq DESC`,
      [id],
    );
    if (rows.length === 0) throw new ProblemError('NOT_FOUND', 'There is no such lifecycle.');
    return rows;
  }

  async check(
    draft: LifecycleDraft,
    manager: EntityManager = this.database.manager,
  ): Promise<LifecycleChecked> {
    const people = await manager.find(Person, { where: { isActive: true } });
    const { lifecycles } = await this.all(manager);
    const wrong = checkDiagram(draft.diagram, {
      people: people.map(({ login, role }) => ({ id: login, role: role as LifecycleRole })),
      webhooks: await webhookNames(manager),
      book: await stateBook(manager),
    });
    return {
      wrong: [
        ...wrong,
        ...wrongPeople(draft, people),
        ...(await this.wrongScopes(draft, lifecycles, manager)),
      ],
    };
  }

  /**
   * Another lifecycle, or the next version of one. Revisions that are under way go on by the version that they began with.
   *
   * @throws ProblemError INPUT_INVALID with all that is wrong; nothing was saved then
   */
  async save(draft: LifecycleDraft, person: Person): Promise<LifecycleRow> {
    const id = await this.database.transaction(async (manager) => {
      await manager.query(`SELECT pg_advisory_xact_lock(hashtext('stem-trace lifecycles'))`);
      const { wrong } = await this.check(draft, manager);
      if (wrong.length > 0)
        throw new ProblemError('INPUT_INVALID', `${wrong.join(' ')} Nothing was saved.`, wrong);
      const own = await this.write(draft, person, manager);
      await announce(manager, 'lifecycles', 'items');
      return own;
    });
    const saved = (await this.all()).lifecycles.find((each) => each.id === id);
    if (!saved) throw new Error(`lifecycle ${id} is gone`);
    return saved;
  }

  private async write(
    { id, diagram, scopes, comment }: LifecycleDraft,
    person: Person,
    manager: EntityManager,
  ): Promise<string> {
    for (const { name, lane, isReleased, glyph } of diagram.states)
      await manager.query(
        `INSERT INTO state (name, lane, is_released, glyph) VALUES ($1, $2, $3, $4)
         ON CONFLICT (name) DO UPDATE SET glyph = excluded.glyph`,
        [name, lane, isReleased, glyph],
      );
    const own = id === '' ? await added(diagram.name, manager) : await renamed(id, diagram.name, manager);
    const { version } = await readRow(
      manager,
      { version: number },
      `INSERT INTO lifecycle_version (lifecycle_id, seq, diagram, comment, person_id)
       SELECT $1, coalesce(max(seq), 0) + 1, $2, $3, $4 FROM lifecycle_version WHERE lifecycle_id = $1 RETURNING seq AS version`,
      [own, JSON.stringify(diagram), comment, person.id],
    );
    await manager.query('DELETE FROM lifecycle_scope WHERE lifecycle_id = $1', [own]);
    for (const { kind, class: itemClass, place } of scopes)
      await manager.query(
        `INSERT INTO lifecycle_scope (lifecycle_id, kind, class_id, place_id)
         VALUES ($1, $2, (SELECT id FROM class WHERE lower(name) = lower($3)), (SELECT id FROM place WHERE path = $4))`,
        [own, kind, itemClass, place],
      );
    await record(manager, [
      {
        ...{ personId: person.id, kind: 'lifecycle', itemId: null },
        says: `${person.name} ${version === 1 ? 'made' : 'changed'} the lifecycle ${diagram.name}${comment === '' ? '' : `: ${comment}`}`,
        detail: { version, diagram, scopes },
      },
    ]);
    return own;
  }

  /** Scopes of nothing, of what others are meant for, and a store without a lifecycle for everything else. */
  private async wrongScopes(
    { id, diagram, scopes }: LifecycleDraft,
    lifecycles: readonly LifecycleRow[],
    manager: EntityManager,
  ): Promise<string[]> {
    const others = lifecycles.filter((each) => each.id !== id);
    const wrong: string[] = [];
    if (id !== '' && others.length === lifecycles.length) wrong.push('There is no such lifecycle any more.');
    const twin = others.find((each) => each.diagram.name.toLowerCase() === diagram.name.toLowerCase());
    if (twin) wrong.push(`Another lifecycle is called ${twin.diagram.name}.`);
    for (const scope of scopes) {
      const taken = others.find((each) => each.scopes.some((other) => keyOf(other) === keyOf(scope)));
      if (taken) wrong.push(`${sayScope(scope)}: ${taken.diagram.name} is meant for that.`);
      if (scopes.filter((other) => keyOf(other) === keyOf(scope)).length > 1)
        wrong.push(`${sayScope(scope)} is named twice.`);
      wrong.push(...(await unknownIn(scope, manager)));
    }
    const everything = keyOf({ kind: null, class: null, place: null });
    if (![...others.flatMap((each) => each.scopes), ...scopes].some((scope) => keyOf(scope) === everything))
      wrong.push('No lifecycle would be meant for everything else. Let one be.');
    return [...new Set(wrong)];
  }
}

async function added(name: string, manager: EntityManager): Promise<string> {
  const { id } = await readRow(
    manager,
    { id: text },
    'INSERT INTO lifecycle (name) VALUES ($1) RETURNING id',
    [name],
  );
  return id;
}

async function renamed(id: string, name: string, manager: EntityManager): Promise<string> {
  await manager.query('UPDATE lifecycle SET name = $2 WHERE id = $1', [id, name]);
  return id;
}

const keyOf = ({ kind, class: itemClass, place }: LifecycleScope): string =>
  JSON.stringify([kind, itemClass?.toLowerCase() ?? null, place]);

function sayScope({ kind, class: itemClass, place }: LifecycleScope): string {
  const what = [itemClass, kind].flatMap((each) => each ?? []).join(' ');
  const where = place === null ? '' : ` below ${place}`;
  return what === '' && where === ''
    ? 'Everything else'
    : `${what === '' ? 'Everything' : `Every ${what}`}${where}`;
}

async function unknownIn(
  { class: itemClass, place }: LifecycleScope,
  manager: EntityManager,
): Promise<string[]> {
  const { hasClass, hasPlace } = await readRow(
    manager,
    { hasClass: number, hasPlace: number },
    `SELECT (SELECT count(*)::int FROM class WHERE lower(name) = lower($1)) AS "hasClass",
            (SELECT count(*)::int FROM place WHERE path = $2) AS "hasPlace"`,
    [itemClass, place],
  );
  return [
    ...(itemClass !== null && hasClass === 0 ? [`There is no class ${itemClass}.`] : []),
    ...(place !== null && hasPlace === 0 ? [`There is no place ${place}.`] : []),
  ];
}

/** People who are named and cannot sign in. */
async function webhookNames(manager: EntityManager): Promise<string[]> {
  const rows = await readRows(manager, { name: text }, 'SELECT name FROM webhook WHERE ended_at IS NULL');
  return rows.map(({ name }) => name);
}

function wrongPeople({ diagram }: LifecycleDraft, people: readonly Person[]): string[] {
  const known = new Set(people.map(({ login }) => login));
  const named = diagram.steps.flatMap(({ who, signatures, due, then }) => [
    ...who,
    ...(due?.lead ?? []),
    ...(signatures?.of ?? []),
    ...then.flatMap((each) => (each.kind === 'tell' ? each.who : [])),
  ]);
  const unknown = named.flatMap((who) => (who.kind === 'person' && !known.has(who.id) ? who.name : []));
  return [...new Set(unknown)].map((name) => `${name} cannot sign in here. Name somebody who can.`);
}
