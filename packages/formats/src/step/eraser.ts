/**
 * Takes instances out of a STEP file, with all that says something about them and all that only they needed.
 *
 * Two laws decide what goes along:
 * - upwards: what has a removed instance among its attributes is about it and goes too; what has it in a list loses it from the
 *   list, and goes where the list would be empty;
 * - downwards: what a removed instance refers to goes where nothing that stays needs it. A style, a layer or a name is about
 *   its subject and does not need it, so that it does not keep it.
 */
import { applyEdits, type Edit } from './edits.js';
import { StepError } from './errors.js';
import type { Group, Statement, StatementGraph } from './statements.js';

/** Types that are about what they refer to, and do not keep it in the file. */
const ABOUT: ReadonlySet<string> = new Set([
  'STYLED_ITEM',
  'OVER_RIDING_STYLED_ITEM',
  'CONTEXT_DEPENDENT_OVER_RIDING_STYLED_ITEM',
  'PRESENTATION_LAYER_ASSIGNMENT',
  'MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION',
  'DRAUGHTING_MODEL',
  'PRODUCT_RELATED_PRODUCT_CATEGORY',
  'GEOMETRIC_ITEM_SPECIFIC_USAGE',
  'ITEM_IDENTIFIED_REPRESENTATION_USAGE',
  'DRAUGHTING_MODEL_ITEM_ASSOCIATION',
  'DOCUMENT_REPRESENTATION_TYPE',
  'DOCUMENT_PRODUCT_EQUIVALENCE',
  'DOCUMENT_PRODUCT_ASSOCIATION',
  'ROLE_ASSOCIATION',
  'NAME_ATTRIBUTE',
  'DESCRIPTION_ATTRIBUTE',
  'ID_ATTRIBUTE',
  'PRODUCT_CATEGORY_RELATIONSHIP',
]);

function isAbout(type: string, id: number): boolean {
  return id < 0 || ABOUT.has(type) || type.startsWith('APPLIED_') || type.startsWith('CC_DESIGN_');
}

export class Eraser {
  private readonly removed = new Set<number>();
  /** Members that lists lose, by the statement that holds them. */
  private readonly dropped = new Map<number, Set<number>>();
  /** Members that lists get. */
  private readonly appended = new Map<number, string[]>();
  private readonly replaced: Edit[] = [];
  private readonly replacedIn = new Map<number, { readonly from: number; readonly to: string }[]>();
  private readonly waiting: number[] = [];
  private readonly touched = new Set<number>();
  private readonly attributes = new Map<number, ReadonlySet<number>>();
  /** What new instances refer to. */
  private readonly pinned = new Set<number>();

  /** @param stays instances that stay though nothing needs them, such as what the file is about */
  constructor(
    private readonly graph: StatementGraph,
    private readonly stays: ReadonlySet<number>,
  ) {}

  isRemoved(id: number): boolean {
    return this.removed.has(id);
  }

  /** Takes instances out with all that goes along. `O(what goes and who refers to it)` */
  remove(ids: Iterable<number>): void {
    for (const id of ids) this.take(id);
    this.settle();
  }

  /** Keeps an instance, for a new one refers to it. */
  pin(id: number): void {
    this.pinned.add(id);
  }

  /** Takes a member out of the lists of one statement, and the member itself where nothing else needs it. */
  drop(holder: number, member: number): void {
    this.dropFrom(holder, member);
    this.waiting.push(member);
    this.settle();
  }

  /** Adds a member to the first list of a statement, the items of a representation for instance. */
  append(holder: number, member: string): void {
    const list = this.appended.get(holder);
    if (list) list.push(member);
    else this.appended.set(holder, [member]);
  }

  /** Lets an attribute of a statement refer to another instance; what it referred to goes where nothing else needs it. */
  redirect(holder: number, from: number, to: string): void {
    const statement = this.graph.get(holder);
    const item = statement && this.attribute(statement, from);
    if (!item) throw new Error(`#${holder} has no attribute #${from}`);
    this.replaced.push({ start: item.start, end: item.start + `#${from}`.length, written: to });
    const list = this.replacedIn.get(holder);
    if (list) list.push({ from, to });
    else this.replacedIn.set(holder, [{ from, to }]);
    this.waiting.push(from);
  }

  /** Whether a new instance refers to it. */
  isPinned(id: number): boolean {
    return this.pinned.has(id);
  }

  /** Writes another text in the place of one, in a statement that stays. */
  rewrite(holder: number, edit: Edit): void {
    this.replaced.push(edit);
    if (!this.replacedIn.has(holder)) this.replacedIn.set(holder, []);
  }

  /** What still refers to an instance, without what was redirected or dropped. */
  referrersOf(id: number): Statement[] {
    return this.graph.referrersOf(id).filter((statement) => this.refers(statement, id));
  }

  private refers({ id: holder }: Statement, to: number): boolean {
    return (
      !this.removed.has(holder) &&
      !(this.dropped.get(holder)?.has(to) ?? false) &&
      !(this.replacedIn.get(holder)?.some(({ from }) => from === to) ?? false)
    );
  }

  /** Goes on until nothing more goes along. */
  settle(): void {
    for (;;) {
      const [holder] = this.touched;
      if (holder !== undefined) {
        this.touched.delete(holder);
        if (!this.removed.has(holder) && this.isEmptied(holder)) this.take(holder);
        continue;
      }
      const candidate = this.waiting.pop();
      if (candidate === undefined) return;
      if (this.removed.has(candidate) || this.stays.has(candidate) || this.pinned.has(candidate)) continue;
      if (!this.graph.get(candidate)) continue;
      const isNeeded = this.graph
        .referrersOf(candidate)
        .some(
          (statement) =>
            this.refers(statement, candidate) && !isAbout(this.graph.typeOf(statement), statement.id),
        );
      if (!isNeeded) this.take(candidate);
    }
  }

  /** The file without what was taken out, with further instances at its end. `O(bytes)` */
  write(more: string): Uint8Array {
    const { bytes, statements, endOfData } = this.graph;
    for (const id of this.pinned)
      if (this.removed.has(id)) throw new StepError(`#${id} is needed and cannot be taken out`, 0);
    const edits: Edit[] = this.replaced.filter((edit) => !this.isWithinRemoved(edit));
    for (const { id, start, end } of statements)
      if (this.removed.has(id)) edits.push({ start, end: behindLine(bytes, end), written: '' });
    for (const holder of new Set([...this.dropped.keys(), ...this.appended.keys()]))
      if (!this.removed.has(holder)) edits.push(...this.listEdits(holder));
    edits.push({ start: endOfData, end: endOfData, written: more });
    return applyEdits(bytes, edits);
  }

  private isWithinRemoved({ start }: Edit): boolean {
    for (const id of this.replacedIn.keys()) {
      const statement = this.graph.get(id);
      if (statement && statement.start <= start && start < statement.end) return this.removed.has(id);
    }
    return false;
  }

  private take(id: number): void {
    const waiting = [id];
    for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
      const statement = this.graph.get(next);
      if (!statement || this.removed.has(next)) continue;
      this.removed.add(next);
      this.waiting.push(...statement.refs);
      for (const referrer of this.referrersOf(next)) {
        if (referrer.id < 0 || this.attributesOf(referrer).has(next)) waiting.push(referrer.id);
        else this.dropFrom(referrer.id, next);
      }
    }
  }

  private dropFrom(holder: number, member: number): void {
    const members = this.dropped.get(holder);
    if (members) members.add(member);
    else this.dropped.set(holder, new Set([member]));
    this.touched.add(holder);
  }

  /** Instances that stand as an attribute and not in a list. */
  private attributesOf(statement: Statement): ReadonlySet<number> {
    let known = this.attributes.get(statement.id);
    if (!known) {
      known = new Set(
        this.graph
          .groupsOf(statement)
          .flatMap(({ kind, items }) => (kind === 'attributes' ? items.flatMap(({ ref }) => ref ?? []) : [])),
      );
      this.attributes.set(statement.id, known);
    }
    return known;
  }

  /** Where an instance stands as an attribute. */
  private attribute(statement: Statement, id: number): { start: number } | undefined {
    for (const { kind, items } of this.graph.groupsOf(statement)) {
      const item = kind === 'attributes' ? items.find(({ ref }) => ref === id) : undefined;
      if (item) return item;
    }
    return undefined;
  }

  private isEmptied(holder: number): boolean {
    const statement = this.graph.get(holder);
    const gone = this.dropped.get(holder);
    if (!statement || !gone) return false;
    return this.graph
      .groupsOf(statement)
      .some(
        (group) => isList(group, gone) && group.items.every(({ ref }) => ref !== undefined && gone.has(ref)),
      );
  }

  private listEdits(holder: number): Edit[] {
    const statement = this.graph.get(holder);
    if (!statement) return [];
    const gone = this.dropped.get(holder) ?? new Set<number>();
    const groups = this.graph.groupsOf(statement);
    const edits = groups.flatMap((group) => (isList(group, gone) ? withoutMembers(group, gone) : []));
    const added = this.appended.get(holder) ?? [];
    const list = groups.find(
      ({ kind, items }, at) => kind === 'list' && (at > 0 || items.every(({ ref }) => ref !== undefined)),
    );
    if (added.length > 0 && list) {
      const isEmpty = list.items.every(({ ref }) => ref !== undefined && gone.has(ref));
      edits.push({ start: list.close, end: list.close, written: `${isEmpty ? '' : ','}${added.join(',')}` });
    }
    return edits;
  }
}

function isList({ kind, items }: Group, gone: ReadonlySet<number>): boolean {
  return kind === 'list' && items.some(({ ref }) => ref !== undefined && gone.has(ref));
}

/** A list without some of its members and the commas that belong to them. */
function withoutMembers({ items }: Group, gone: ReadonlySet<number>): Edit[] {
  const isGone = items.map(({ ref }) => ref !== undefined && gone.has(ref));
  const lastKept = isGone.lastIndexOf(false);
  return items.flatMap(({ start, end }, at): Edit[] => {
    if (!isGone[at]) return [];
    const next = items[at + 1];
    const before = items[at - 1];
    // Up to the next member; behind the last that stays, from the end of the one before.
    if (at < lastKept && next) return [{ start, end: next.start, written: '' }];
    return [{ start: before?.end ?? start, end, written: '' }];
  });
}

/** The end of a line that nothing else stands on. */
function behindLine(bytes: Uint8Array, end: number): number {
  let at = end;
  while (bytes[at] === 32 || bytes[at] === 9) at++;
  if (bytes[at] === 13) at++;
  return bytes[at] === 10 ? at + 1 : end;
}
