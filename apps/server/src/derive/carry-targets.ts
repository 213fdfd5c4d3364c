/** What later changes of an origin would do to each of its copies, before anything is written. */
import type { CarryDecision, CarryOverRow } from '@stem-trace/contract';
import {
  refuseChange,
  takesVersions,
  type StateBook,
  type CarrySide,
  type MadeVersion,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import { stateBook } from '../database/state-book.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import { broughtTogether, type BroughtTogether } from './carry-together.js';
import type { Prepared } from './planner.service.js';

/** A copy as it is now. */
export interface Copy {
  readonly itemId: string;
  /** The origin's version that it was last made of. */
  readonly base: string;
  /** Whether it has another file than it was last made with. */
  readonly hasOwnFile: boolean;
  readonly newest: DescribedVersion;
}

export interface Target {
  readonly made: MadeVersion;
  readonly row: CarryOverRow;
  /** Absent for what the origin got since. */
  readonly copy: Copy | undefined;
  /** What is said of the copy in the end, and of its uses; absent for what is new or stays behind. */
  readonly together: BroughtTogether | undefined;
}

interface TargetContext {
  readonly person: Person;
  readonly rights: Rights;
  readonly decided: readonly CarryDecision[];
  readonly manager: EntityManager;
}

/** One for each version that the copies are to be made of now and were not yet. */
export async function targetsOf(
  catalogue: CatalogueService,
  prepared: Prepared,
  copies: ReadonlyMap<string, Copy>,
  context: TargetContext,
): Promise<Target[]> {
  const { plan, versions } = prepared;
  const { manager } = context;
  const book = await stateBook(manager);
  const bases = await catalogue.describe(
    [...copies.values()].map(({ base }) => base),
    manager,
  );
  const lines = new Map(plan.lines.map((line) => [line.key, line]));
  const reasons = await reasonsSince(
    manager,
    plan.made.map(({ key, versionId }) => ({ to: versionId, from: copies.get(key)?.base })),
  );
  const behind = plan.made.filter(({ key, versionId }) => copies.get(key)?.base !== versionId);
  const files = new Files(prepared, { copies, bases, behind });
  const together = await broughtTogether(manager, prepared, {
    ...{ copies, bases, decided: context.decided },
    wanted: behind.flatMap((made) => {
      const side = files.sideOf(made);
      return side === undefined || !copies.has(made.key) ? [] : [{ made, file: side }];
    }),
  });
  return behind.flatMap((made): Target[] => {
    const copy = copies.get(made.key);
    const line = lines.get(made.key);
    const origin = versions.get(made.versionId);
    if (!origin || !line?.copy) return [];
    const own = together.get(made);
    const kind = !copy ? 'new' : files.kindOf(made);
    const row = {
      ...{ number: copy?.newest.number ?? line.copy.number, name: copy?.newest.name ?? line.copy.name },
      ...{
        origin: origin.number,
        from: copy ? (bases.get(copy.base)?.label ?? '') : '',
        to: origin.label,
        kind,
      },
      ...{ contradictions: own?.contradictions ?? [], keeps: own?.keeps ?? [] },
      because: reasons.get(made.versionId) ?? '',
      ...judged(kind, copy, { ...context, book }),
    } as const;
    return [
      { made, copy, together: own, row: line.clash ? { ...row, stops: true, says: line.clash.says } : row },
    ];
  });
}

/** Whose file a copy has in the end. What lives in one file changes together. */
class Files {
  /** Files that both sides changed, or that the copy changed and that hold several products. */
  private readonly torn = new Set<string>();
  private readonly inFile = new Map<string, number>();

  constructor(
    private readonly prepared: Prepared,
    private readonly of: {
      readonly copies: ReadonlyMap<string, Copy>;
      readonly bases: ReadonlyMap<string, DescribedVersion>;
      readonly behind: readonly MadeVersion[];
    },
  ) {
    for (const made of prepared.plan.made) {
      const file = this.fileOf(made);
      this.inFile.set(file, (this.inFile.get(file) ?? 0) + 1);
    }
    for (const made of of.behind)
      if (
        of.copies.get(made.key)?.hasOwnFile &&
        (this.isNewFile(made) || this.inFile.get(this.fileOf(made)) !== 1)
      )
        this.torn.add(this.fileOf(made));
  }

  sideOf(made: MadeVersion): CarrySide | undefined {
    if (this.torn.has(this.fileOf(made))) return undefined;
    return this.of.copies.get(made.key)?.hasOwnFile ? 'copy' : 'origin';
  }

  kindOf(made: MadeVersion): CarryOverRow['kind'] {
    if (this.torn.has(this.fileOf(made))) return 'both';
    return this.isNewFile(made) ? 'take' : 'values';
  }

  /** Whether the origin has another file than its copy was made with. */
  private isNewFile({ key, versionId }: MadeVersion): boolean {
    const base = this.of.bases.get(this.of.copies.get(key)?.base ?? '');
    return base?.sha256 !== this.prepared.versions.get(versionId)?.sha256;
  }

  private fileOf({ key, versionId }: MadeVersion): string {
    const [, spot = ''] = key.split('#');
    return `${this.prepared.versions.get(versionId)?.carrierVersion ?? versionId}#${spot}`;
  }
}

function judged(
  kind: CarryOverRow['kind'],
  copy: Copy | undefined,
  { person, rights, book }: Pick<TargetContext, 'person' | 'rights'> & { readonly book: StateBook },
): Pick<CarryOverRow, 'says' | 'stops'> {
  if (kind === 'both')
    return {
      says: 'both files changed: bring them together in the design program, then check the copy in',
      stops: true,
    };
  if (!copy) return { says: '', stops: false };
  const { heldBy, placeId, state } = copy.newest;
  if (!rights.may('change', placeId))
    return { says: 'your access at its place does not allow you to change it', stops: true };
  if (heldBy && heldBy.login !== person.login) return { says: `${heldBy.name} holds it`, stops: true };
  if (!takesVersions(book, state)) return { says: refuseChange(book, state) ?? '', stops: true };
  return {
    says: book.get(state)?.lane === 'locked' ? `it is ${state}: it goes on in a new revision` : '',
    stops: false,
  };
}

/** What people gave as reasons for all that the origins got since they were copied, by their versions now. */
async function reasonsSince(
  manager: EntityManager,
  spans: readonly { readonly to: string; readonly from: string | undefined }[],
): Promise<Map<string, string>> {
  const rows = await readRows(
    manager,
    { id: text, reasons: text },
    `SELECT now.id, string_agg(v.comment, '; ' ORDER BY v.ordinal) AS reasons
     FROM unnest($1::bigint[], $2::bigint[]) AS span (now_id, then_id)
     JOIN version now ON now.id = span.now_id LEFT JOIN version was ON was.id = span.then_id
     JOIN version v ON v.item_id = now.item_id AND v.ordinal <= now.ordinal
       AND v.ordinal > coalesce(was.ordinal, now.ordinal - 1)
     WHERE v.comment <> '' GROUP BY now.id`,
    [spans.map(({ to }) => to), spans.map(({ from }) => from ?? null)],
  );
  return new Map(rows.map(({ id, reasons }) => [id, reasons]));
}
