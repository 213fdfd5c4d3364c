import { Injectable } from '@nestjs/common';
import type {
  CompareAnswer,
  ComparedSide,
  CompareRowSide,
  LensText,
  ThreeAnswer,
  ThreeRow,
} from '@stem-trace/contract';
import {
  compareThree,
  compareTotals,
  compareTrees,
  countDifferences,
  countVerdicts,
  effectOf,
  measureOf,
  sayAmount,
  sayDesignators,
  sayDifference,
  sayWhat,
  type Aspect,
  type DifferenceRow,
  type HandPair,
  type LineSide,
  type PairKey,
  type ThreeRow as CoreThreeRow,
  type VerdictCounts,
} from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { BomTreeService, type StoreLine } from '../bom/bom-tree.service.js';
import { LIST, ListTreeService } from '../bom/list-tree.service.js';
import type { Person } from '../database/entities/person.js';
import { readRow, readRows, text, timeText } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { ProblemError } from '../problems/problem.js';
import { WholesService } from './wholes.service.js';
import { stateBook } from '../database/state-book.js';

export interface CompareRequest {
  /** `NUMBER` or `NUMBER@B/3` */
  readonly from: string;
  readonly to: string;
  readonly net: boolean;
  readonly lens: LensText;
  /** Of one side, where that is another than `lens`. */
  readonly fromLens?: LensText;
  readonly toLens?: LensText;
  readonly by?: readonly PairKey[];
  readonly hand: readonly HandPair[];
  /** Names of properties that are compared too. */
  readonly columns: readonly string[];
}

export interface CompareThreeRequest {
  /** Found by lineage where empty. */
  readonly base: string;
  readonly one: string;
  readonly other: string;
  readonly lens: LensText;
  readonly columns: readonly string[];
}

export interface Side {
  readonly said: ComparedSide;
  readonly tree: StoreLine;
  /** Absent for a list from outside. */
  readonly version?: DescribedVersion;
}

/** What is different between two BOMs. */
@Injectable()
export class CompareService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly trees: BomTreeService,
    private readonly rights: RightsService,
    private readonly wholes: WholesService,
    private readonly lists: ListTreeService,
  ) {}

  async compare(request: CompareRequest, person: Person): Promise<CompareAnswer> {
    const { net, lens, fromLens = lens, toLens = lens, by, hand, columns } = request;
    const rights = await this.rights.of(person);
    const both = await Promise.all([
      this.side(request.from, fromLens, { person, rights, columns }),
      this.side(request.to, toLens, { person, rights, columns }),
    ]);
    const isCut = !net && isOneLevelBesideMore(...both);
    const [from, to] = isCut ? [firstLevel(both[0]), firstLevel(both[1])] : both;
    const options = { hand, columns, silent: silentIn(from, to), ...(by ? { by } : {}) };
    const rows = net ? compareTotals(from.tree, to.tree, options) : compareTrees(from.tree, to.tree, options);
    const counts = countDifferences(rows);
    const whole =
      from.version && to.version ? await this.wholes.compare(from.version, to.version, rights) : [];
    return {
      from: from.said,
      to: to.said,
      sentence:
        sayDifference(from.said, to.said, counts, whole.length === 0) +
        (isCut ? ' The list has one level, so only first levels are compared.' : ''),
      counts,
      whole,
      effect: effectOf(from.tree, to.tree, await stateBook(this.database)),
      rows: rows.map(({ sign, level, before, after, by: pairedBy, differs }) => ({
        sign,
        level,
        number: (after ?? before)?.line.number ?? '',
        before: before ? sideView(before) : null,
        after: after ? sideView(after) : null,
        by: pairedBy ?? null,
        differs,
      })),
    };
  }

  /** What two sides changed of a common origin. @throws ProblemError INPUT_INVALID where none is known */
  async three(
    { base, one, other, lens, columns }: CompareThreeRequest,
    person: Person,
  ): Promise<ThreeAnswer> {
    const rights = await this.rights.of(person);
    const scope = { person, rights, columns };
    const [left, right] = await Promise.all([this.side(one, lens, scope), this.side(other, lens, scope)]);
    // What both come from is what it was then: its parts as it recorded them, whatever has become of these since.
    const origin = await this.side(
      base || (await this.originOf(left, right, rights.placesWithout('see'))),
      'recorded',
      scope,
    );
    const rows = compareThree(origin.tree, left.tree, right.tree, {
      columns,
      silent: silentIn(origin, left, right),
    });
    const counts = countVerdicts(rows);
    return {
      base: origin.said,
      one: left.said,
      other: right.said,
      sentence: sayThree(origin.said, left.said, right.said, counts),
      counts,
      rows: rows.map(threeRow),
    };
  }

  /** The latest version that both go back to: through versions of one item, and from a variant to what it was derived from. */
  private async originOf(left: Side, right: Side, hidden: readonly string[]): Promise<string> {
    const [one, other] = [left.version?.id, right.version?.id];
    const [origin] =
      one === undefined || other === undefined
        ? []
        : await readRows(
            this.database,
            { number: text, label: text },
            `WITH RECURSIVE back(side, version, item) AS (
               SELECT s.side, v.id, v.item_id FROM unnest(ARRAY[1, 2], ARRAY[$1, $2]::bigint[]) AS s(side, id) JOIN version v ON v.id = s.id
               UNION
               SELECT b.side, o.id, o.item_id FROM back b JOIN item i ON i.id = b.item JOIN version o ON o.id = i.origin_version_id)
             SELECT i.number, r.code || '/' || v.seq AS label
             FROM back one JOIN back other ON other.item = one.item AND one.side = 1 AND other.side = 2
             JOIN version v ON v.id = least(one.version, other.version)
             JOIN revision r ON r.id = v.revision_id JOIN item i ON i.id = v.item_id
             WHERE i.place_id <> ALL($3::bigint[]) ORDER BY v.id DESC LIMIT 1`,
            [one, other, hidden],
          );
    if (!origin)
      throw new ProblemError(
        'INPUT_INVALID',
        `The store knows no common origin of ${left.said.number} and ${right.said.number}. Choose one.`,
      );
    return `${origin.number}@${origin.label}`;
  }

  private async side(reference: string, lens: LensText, scope: Scope): Promise<Side> {
    const { person, rights, columns } = scope;
    if (reference.startsWith(LIST)) {
      const list = await this.lists.find(reference.slice(LIST.length));
      const { name, at, author } = list;
      const said = { number: name, name: '', version: '', lens: 'recorded', at, author };
      return { said, tree: await this.lists.tree(list, rights) };
    }
    const version = await this.catalogue.resolveUnder(reference, lens, { person });
    const tree = await this.trees.tree(version, { lens, rights, columns });
    const made = await readRow(
      this.database,
      { at: timeText, author: text },
      `SELECT v.created_at AS at, p.name AS author FROM version v JOIN person p ON p.id = v.author_id WHERE v.id = $1`,
      [version.id],
    );
    const { number, name, label } = version;
    return { said: { number, name, version: label, lens, ...made }, tree, version };
  }
}

/** Whether a list from outside has one level, and that with which it is compared has more. */
function isOneLevelBesideMore(...sides: readonly Side[]): boolean {
  const isDeep = ({ tree }: Side): boolean => tree.children.some(({ children }) => children.length > 0);
  return sides.some((side) => !side.version && !isDeep(side)) && sides.some(isDeep);
}

/** Without what lies below the first level, except what it adds up to. */
function firstLevel(side: Side): Side {
  const children = side.tree.children.map((line) => ({ ...line, ...measureOf(line), children: [] }));
  return { ...side, tree: { ...side.tree, children } };
}

/** What a list from outside says nothing of, and what nobody has said yet of that with which it is compared. */
function silentIn(...sides: readonly Side[]): readonly Aspect[] {
  if (sides.every(({ version }) => version)) return [];
  const told = sides.map(({ tree }) => toldIn(tree));
  const aspects = ['find', 'designators', 'version'] as const;
  return ['placement', 'configurations', ...aspects.filter((aspect) => told.some((each) => !each[aspect]))];
}

function toldIn(root: StoreLine): Record<'find' | 'designators' | 'version', boolean> {
  const told = { find: false, designators: false, version: false };
  const stack = [...root.children];
  for (let line = stack.pop(); line; line = stack.pop()) {
    told.find ||= line.find !== '';
    told.designators ||= line.designators.length > 0;
    told.version ||= line.version !== '';
    stack.push(...line.children);
  }
  return told;
}

interface Scope {
  readonly person: Person;
  readonly rights: Rights;
  readonly columns: readonly string[];
}

function threeRow({ verdict, base, one, other, toOne, toOther }: CoreThreeRow): ThreeRow {
  const side = one ?? other ?? base;
  return {
    verdict,
    level: toOne?.level ?? toOther?.level ?? 1,
    number: side?.line.number ?? '',
    name: side?.line.name ?? '',
    base: base ? sideView(base) : null,
    one: one ? sideView(one) : null,
    other: other ? sideView(other) : null,
    oneSays: sayChange(toOne),
    otherSays: sayChange(toOther),
  };
}

function sayChange(row: DifferenceRow | undefined): string {
  if (!row || row.sign === 'same') return '';
  const { before, after, differs } = row;
  return sayWhat({
    before: before ? sideView(before) : null,
    after: after ? sideView(after) : null,
    differs,
  }).join('; ');
}

function sayThree(base: ComparedSide, one: ComparedSide, other: ComparedSide, counts: VerdictCounts): string {
  const name = ({ number, version }: ComparedSide): string => `${number} ${version}`.trim();
  const said = [
    counts.one > 0 ? `${counts.one} changed only in ${name(one)}` : '',
    counts.other > 0 ? `${counts.other} only in ${name(other)}` : '',
    counts.alike > 0 ? `${counts.alike} the same in both` : '',
    counts.apart > 0 ? `${counts.apart} in both, compatible` : '',
    counts.contradict > 0 ? `${counts.contradict} in conflict` : '',
  ].filter(Boolean);
  return `Since ${name(base)}: ${said.length === 0 ? 'no difference' : said.join(', ')}.`;
}

export function sideView({ line, way, chain }: LineSide): CompareRowSide {
  const { number, name, version, amount, find, designators, configurations, values, state } = line;
  return {
    ...{ number, name, version, find, values, way },
    amount: sayAmount(amount),
    designators: sayDesignators(designators),
    configurations: configurations.join(', '),
    in: chain.at(-2) ?? '',
    state: state ?? null,
    isGap: line.isGap === true,
    isHidden: line.isHidden === true,
  };
}
