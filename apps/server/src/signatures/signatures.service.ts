import { Injectable } from '@nestjs/common';
import type { DiagramStep } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { releasedBelow, type ReleasedBelow } from '../store/baseline.js';
import { digestOf, linesOf } from '../store/contents.js';
import { SigningKey } from './signing-key.js';
import { digestOfText, textOf } from './statement.js';

/** A version with the structure that stands below it. */
export interface Signed {
  readonly itemId: string;
  readonly versionId: string;
  readonly number: string;
  readonly label: string;
  readonly revisionId: string;
  readonly moves: number;
  readonly state: string;
}

export interface Content {
  readonly digest: string;
  readonly lines: readonly string[];
}

/** Signs what is there, and says what it is that is signed. */
@Injectable()
export class SignaturesService {
  constructor(private readonly key: SigningKey) {}

  /**
   * What somebody signs with each of several versions: its own lines, and for everything below it that version and the digest of
   * its lines. By version id.
   *
   * @param makes versions that a change order makes, by that of the order: whoever signs the order signs them with what is below them
   */
  async contentsOf(
    manager: EntityManager,
    versionIds: readonly string[],
    below: ReleasedBelow,
    makes: ReadonlyMap<string, readonly string[]> = new Map(),
  ): Promise<Map<string, Content>> {
    const reached = new Map(
      versionIds.map((id) => {
        const made = makes.get(id) ?? [];
        return [
          id,
          [...new Set([...below.below(id), ...made.flatMap((each) => [each, ...below.below(each)])])],
        ];
      }),
    );
    const lines = await linesOf(manager, [...new Set([...versionIds, ...[...reached.values()].flat()])]);
    const own = new Map([...lines].map(([id, says]) => [id, belowLine(says)]));
    return new Map(
      versionIds.map((id) => {
        const all = [
          ...(lines.get(id) ?? []),
          ...(reached.get(id) ?? []).flatMap((other) => own.get(other) ?? []).sort(),
        ];
        return [id, { digest: digestOf(all), lines: all }];
      }),
    );
  }

  /**
   * Digests of versions as a signer is shown them: the lines of each, those of what *Released* picks below it, and what is missing
   * there. Independent of which items are decided together, so that what a check sheet showed can be held against what is signed
   * later. Sealed, so that it confirms no guess about what is hidden below.
   *
   * @returns by version id
   */
  async shownOf(manager: EntityManager, versionIds: readonly string[]): Promise<Map<string, string>> {
    const below = await releasedBelow(manager, versionIds, new Map());
    const contents = await this.contentsOf(manager, versionIds, below);
    const shown = new Map<string, string>();
    for (const [id, { digest }] of contents) {
      const missing = below.missing(id).map(({ user, what }) => `${user} uses ${what}`);
      const text = [digest, ...new Set(missing)].sort().join('\n');
      shown.set(id, digestOfText(await this.key.seal(text)));
    }
    return shown;
  }

  /**
   * Inside the transaction in which the step is taken, whose turn puts signatures in a line.
   *
   * @returns digests of what was stated, by item id, for the trail
   */
  async sign(
    manager: EntityManager,
    signed: readonly Signed[],
    {
      step,
      person,
      zone,
      contents,
      at,
    }: {
      readonly step: ReadonlyMap<string, DiagramStep>;
      readonly person: Person;
      readonly zone: string;
      readonly contents: ReadonlyMap<string, Content>;
      readonly at: Date;
    },
  ): Promise<Map<string, string>> {
    const stated = new Map<string, string>();
    const key = await this.key.fingerprint();
    const [last] = await readRows(
      manager,
      { statement: text },
      'SELECT statement FROM signature ORDER BY id DESC LIMIT 1',
    );
    let before = last ? digestOfText(last.statement) : '';
    for (const { itemId, versionId, number, label, revisionId, moves, state } of signed) {
      const [of, content] = [step.get(itemId), contents.get(versionId)];
      if (!of || !content) throw new Error(`nothing says what is signed of ${number}`);
      const statement = textOf({
        ...{ format: 2, item: number, version: label, step: of.name, from: state, to: of.to, means: of.done },
        ...{ login: person.login, name: person.name, at: at.toISOString(), zone },
        ...{ moves, content: content.digest, before, key },
      });
      await manager.query(
        'INSERT INTO signed_content (digest, lines) VALUES ($1, $2) ON CONFLICT DO NOTHING',
        [content.digest, content.lines.join('\n')],
      );
      await manager.query(
        `INSERT INTO signature (item_id, revision_id, version_id, moves, step, person_id, login, name, at, zone, content, statement, seal)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)`,
        [
          ...[itemId, revisionId, versionId, moves, of.name, person.id, person.login, person.name, at, zone],
          ...[content.digest, statement, await this.key.seal(statement)],
        ],
      );
      before = digestOfText(statement);
      stated.set(itemId, before);
    }
    return stated;
  }

  /** Freezes what stands below versions that were released. */
  async freeze(
    manager: EntityManager,
    versionIds: readonly string[],
    below: ReleasedBelow,
    at: Date,
  ): Promise<void> {
    const assemblies = versionIds.filter((id) => below.below(id).size > 0);
    const contents = await this.contentsOf(manager, assemblies, below);
    for (const version of assemblies) {
      const reached = [...below.below(version)];
      await manager.query(
        `WITH made AS (INSERT INTO baseline (version_id, digest, at) VALUES ($1, $2, $4) RETURNING id)
         INSERT INTO baseline_item (baseline_id, item_id, version_id)
         SELECT made.id, v.item_id, v.id FROM made, version v WHERE v.id = ANY($3::bigint[])`,
        [version, contents.get(version)?.digest ?? '', reached, at],
      );
    }
  }
}

/** `below part FM-3307 B/2 1f0c…` */
export function belowLine(lines: readonly string[]): string {
  const [what = '', version = ''] = lines;
  return `below ${what} ${version.replace('version ', '')} ${digestOf(lines)}`;
}
