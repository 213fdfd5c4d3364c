import { holderFor } from '../store/names.js';
import {
  baselineIn,
  lensParts,
  lensText,
  type Drift,
  type FamilyAnswer,
  type FamilyMember,
  type FamilyRowView,
  type LensText,
  type StemAnswer,
  type StemRow,
} from '@stem-trace/contract';
import {
  compareThree,
  countVerdicts,
  familyOf,
  picksNewest,
  sayAmount,
  sharesOf,
  type CoreFamilyRow,
} from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { BomTreeService, type StoreLine } from '../bom/bom-tree.service.js';
import type { Person } from '../database/entities/person.js';
import { number, orNull, readRows, text, timeText } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';

/** Variants whose structure is read for one answer. */
const MOST_VARIANTS = 60;
/** Items of a stem that are listed. */
const MOST_LISTED = 5000;

interface Asked {
  readonly item: string;
  readonly lens: LensText;
}

interface Member {
  readonly itemId: string;
  readonly number: string;
  readonly placeId: string;
  /** The item that it was derived from, and the version of that. */
  readonly parent: string | null;
  readonly originVersion: string | null;
  readonly newestVersion: string;
  readonly at: string;
  readonly by: string;
  readonly originVersions: number;
  readonly ownVersions: number;
}

/** What belongs to a stem, and how far its variants have gone their own ways. */
export class LineageService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly trees: BomTreeService,
    private readonly rights: RightsService,
  ) {}

  /**
   * The stem of an item as a tree. Drift is told row by row between what the variant was derived from, as it was recorded then, and
   * both as the lens shows them now.
   *
   * @throws ProblemError ITEM_UNKNOWN, STRUCTURE_TOO_LARGE
   */
  async stem({ item, lens: chosen }: Asked, person: Person): Promise<StemAnswer> {
    const lens = lensForStems(chosen);
    const asked = await this.catalogue.resolve(item, person);
    const rights = await this.rights.of(person);
    const members = await this.membersOf(asked.stemId);
    const seen = members.filter(({ placeId }) => rights.may('see', placeId));
    const numberOf = new Map(seen.map(({ itemId, number: of }) => [itemId, of]));
    const trees = await Trees.of(this.trees, this.catalogue, seen, { person, rights, lens });
    const rows: StemRow[] = [];
    let cut = 0;
    for (const { member, level } of inTree(seen)) {
      const version = await trees.shown(member.number);
      const origin = member.originVersion === null ? undefined : trees.version(member.originVersion);
      const isSeen = origin !== undefined && rights.may('see', origin.placeId);
      const isAssembly = version.kind === 'assembly' && isSeen;
      const isWorkedOut = isAssembly && trees.count < MOST_VARIANTS;
      if (isAssembly && !isWorkedOut) cut++;
      const { number: of, name, kind, label, state } = version;
      const heldBy = holderFor(rights, version.heldBy);
      rows.push({
        ...{ level, number: of, name, kind, version: label, state, heldBy, at: member.at, by: member.by },
        from: isSeen
          ? { number: numberOf.get(member.parent ?? '') ?? origin.number, version: origin.label }
          : null,
        originVersions: isSeen ? member.originVersions : 0,
        ownVersions: member.ownVersions,
        drift: isWorkedOut ? await this.driftOf(trees, origin, version) : null,
      });
    }
    return {
      item: { number: asked.number, name: asked.name },
      ...{ lens, rows, cut, hidden: members.length - seen.length },
    };
  }

  /**
   * All variants of a stem beside what it begins with, or beside the item asked about where one may not see that.
   *
   * @throws ProblemError ITEM_UNKNOWN, STRUCTURE_TOO_LARGE
   */
  async family({ item, lens: chosen }: Asked, person: Person): Promise<FamilyAnswer> {
    const lens = lensForStems(chosen);
    const asked = await this.catalogue.resolve(item, person);
    const rights = await this.rights.of(person);
    const members = await this.membersOf(asked.stemId);
    const seen = members.filter(({ placeId }) => rights.may('see', placeId));
    const first = seen.find(({ itemId }) => itemId === asked.stemId) ?? {
      number: asked.number,
      itemId: asked.itemId,
    };
    const others = seen.filter(({ itemId }) => itemId !== first.itemId);
    const taken = others.slice(0, MOST_VARIANTS);
    const trees = await Trees.of(this.trees, this.catalogue, seen, { person, rights, lens });
    const origin = await trees.shown(first.number);
    const variants: DescribedVersion[] = [];
    for (const { number: of } of taken) variants.push(await trees.shown(of));
    const lines: StoreLine[] = [];
    for (const variant of variants) lines.push(await trees.tree(variant, lens));
    const rows = familyOf(await trees.tree(origin, lens), lines);
    return {
      ...{ origin: memberOf(origin), lens, variants: variants.map(memberOf), rows: rows.map(rowView) },
      ...{ shares: sharesOf(rows), hidden: members.length - seen.length, cut: others.length - taken.length },
    };
  }

  private async driftOf(trees: Trees, origin: DescribedVersion, variant: DescribedVersion): Promise<Drift> {
    const base = await trees.tree(origin, 'recorded');
    const now = await trees.tree(await trees.shown(origin.number), trees.lens);
    const counts = countVerdicts(compareThree(base, now, await trees.tree(variant, trees.lens)));
    const { one, other, alike, apart, contradict } = counts;
    return { origin: one, variant: other, alike, apart, contradict };
  }

  /** Older ones first. */
  private membersOf(stemId: string): Promise<Member[]> {
    return readRows<Member>(
      this.database,
      {
        ...{ itemId: text, number: text, placeId: text, parent: orNull(text), originVersion: orNull(text) },
        newestVersion: text,
        ...{ at: timeText, by: text, originVersions: number, ownVersions: number },
      },
      `SELECT i.id::text AS "itemId", i.number, i.place_id::text AS "placeId", o.item_id::text AS parent,
              i.origin_version_id::text AS "originVersion", n.id::text AS "newestVersion", coalesce(x.created_at, f.created_at) AS at, p.name AS by,
              coalesce(on_.ordinal - o.ordinal, 0)::int AS "originVersions", (n.ordinal - f.ordinal)::int AS "ownVersions"
       FROM item i JOIN version n ON n.id = i.newest_version_id
       JOIN LATERAL (SELECT * FROM version WHERE item_id = i.id ORDER BY ordinal LIMIT 1) f ON true
       LEFT JOIN derivation x ON x.id = i.derivation_id JOIN person p ON p.id = coalesce(x.created_by, f.author_id)
       LEFT JOIN version o ON o.id = i.origin_version_id LEFT JOIN item oi ON oi.id = o.item_id
       LEFT JOIN version on_ ON on_.id = oi.newest_version_id
       WHERE i.stem_id = $1 OR i.id = $1
       ORDER BY i.id LIMIT ${MOST_LISTED}`,
      [stemId],
    );
  }
}

interface Scope {
  readonly person: Person;
  readonly rights: Rights;
  readonly lens: LensText;
}

/** A baseline holds what one release froze, and no variant of it: those are looked at as they are now. */
function lensForStems(chosen: LensText): LensText {
  return baselineIn(chosen) === undefined ? chosen : lensText({ ...lensParts(chosen), versions: 'newest' });
}

/** Structures as one person sees them, each read once. */
class Trees {
  readonly lens: LensText;
  private readonly known = new Map<string, Promise<StoreLine>>();
  private readonly versions = new Map<string, Promise<DescribedVersion>>();

  private constructor(
    private readonly trees: BomTreeService,
    private readonly catalogue: CatalogueService,
    private readonly described: ReadonlyMap<string, DescribedVersion>,
    private readonly scope: Scope,
  ) {
    this.lens = scope.lens;
  }

  /** Looks up what is asked of all members at once: a stem may have thousands. */
  static async of(
    trees: BomTreeService,
    catalogue: CatalogueService,
    members: readonly Member[],
    scope: Scope,
  ): Promise<Trees> {
    const ids = members.flatMap(({ newestVersion, originVersion }) =>
      [newestVersion, originVersion ?? []].flat(),
    );
    const described = await catalogue.describe([...new Set(ids)]);
    const made = new Trees(trees, catalogue, described, scope);
    if (picksNewest(await catalogue.lens(scope.lens, scope.rights)))
      for (const { number: of, newestVersion } of members) {
        const version = described.get(newestVersion);
        if (version) made.versions.set(of, Promise.resolve(version));
      }
    return made;
  }

  /** How many were read. */
  get count(): number {
    return this.known.size;
  }

  /** The version of an item that the lens shows, or its newest. */
  shown(item: string): Promise<DescribedVersion> {
    const { person, lens } = this.scope;
    return once(this.versions, item, () =>
      this.catalogue.resolveUnder(item, lens, { person, orNewest: true }),
    );
  }

  version(id: string): DescribedVersion | undefined {
    return this.described.get(id);
  }

  tree(version: DescribedVersion, lens: LensText): Promise<StoreLine> {
    return once(this.known, `${version.id} ${lens}`, () =>
      this.trees.tree(version, { lens, rights: this.scope.rights }),
    );
  }
}

function once<T>(known: Map<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  const found = known.get(key) ?? make();
  known.set(key, found);
  return found;
}

/** Depth first; what was derived from something that is not here begins a tree of its own. */
function inTree(members: readonly Member[]): { readonly member: Member; readonly level: number }[] {
  const here = new Set(members.map(({ itemId }) => itemId));
  const children = new Map<string, Member[]>();
  for (const member of members) {
    const key =
      member.parent !== null && here.has(member.parent) && member.parent !== member.itemId
        ? member.parent
        : '';
    children.set(key, [...(children.get(key) ?? []), member]);
  }
  const rows: { member: Member; level: number }[] = [];
  const stack = (children.get('') ?? []).map((member) => ({ member, level: 1 })).reverse();
  for (let top = stack.pop(); top; top = stack.pop()) {
    rows.push(top);
    const { level } = top;
    stack.push(
      ...(children.get(top.member.itemId) ?? []).map((member) => ({ member, level: level + 1 })).reverse(),
    );
  }
  return rows;
}

function memberOf({ number: of, name, label, state }: DescribedVersion): FamilyMember {
  return { number: of, name, version: label, state };
}

function rowView({ level, line, total, isOfOrigin, kinds, cells }: CoreFamilyRow): FamilyRowView {
  const { number: of, name, kind, version } = line;
  return {
    ...{ level, number: of, name, kind: kind ?? null, version, amount: sayAmount(total), isOfOrigin, kinds },
    cells: cells.map(({ verdict, line: own, isOtherAmount }) => ({
      verdict,
      number: own?.number ?? '',
      version: own?.version ?? '',
      amount: own && isOtherAmount ? sayAmount(own.amount) : '',
    })),
  };
}
