/**
 * Which item each product and document is: its number, and the item of the store that it goes on, if any.
 *
 * An item's identity is never taken by accident. A product goes on an item of the store where it was fetched as that item,
 * where that item's file lies at the very same place, or where it has the same content. One that is only called alike is
 * said to be *already in the store*, and gets a number of its own or waits for somebody to decide.
 */
import { nameFold } from '../names/portable.js';
import { numberKey } from '../numbering/number.js';
import { isModel, numberOf, type Owner } from './belonging.js';
import { ownId, type Draft } from './draft.js';
import { base, folderOf, stemOf, type FileIndex } from './locate.js';
import { placeOf, storedNameOf, storePathOf, type IntakeOptions, type KnownItem } from './plan-types.js';

export interface IdentityScope {
  readonly index: FileIndex;
  readonly owners: ReadonlyMap<Draft, Owner>;
  readonly options: IntakeOptions;
}

/** Gives every draft a number, a name and its item: carriers before what they carry, models before documents. `O(drafts)`. */
export function identify(drafts: readonly Draft[], scope: IdentityScope): void {
  const identifier = new Identifier(drafts, scope);
  const models = drafts.filter(({ product }) => isModel(product.kind));
  const proposals = proposalsFor(models, scope.index);
  const byKey = new Map(models.map((draft) => [draft.key, draft]));
  for (const isCarried of [false, true]) {
    for (const draft of models) {
      const found = proposals.get(draft);
      if (!found || (draft.carrierKey !== undefined) !== isCarried) continue;
      const carrier = byKey.get(draft.carrierKey ?? '');
      const proposed = carrier
        ? { ...found, candidates: carriedCandidates(found.own, carrier, scope.options.prefix ?? '') }
        : found;
      identifier.settle(draft, proposed);
      if (
        numberKey(draft.number) !== numberKey((scope.options.prefix ?? '') + proposed.own) &&
        !draft.known &&
        !identifier.hasRival(draft)
      )
        draft.notes.unshift(...(proposed.why === undefined ? [] : [proposed.why]));
      const ownName = draft.product.name;
      const said = scope.options.corrections?.get(draft.key)?.name;
      draft.name = said ?? (ownName === '' || ownName === proposed.own ? draft.number : ownName);
    }
  }
  for (const draft of drafts) if (!isModel(draft.product.kind)) settleDocument(draft, identifier, scope);
}

/** Numbers that a draft may get, without the intake's prefix. */
interface Proposal {
  /** What it calls itself. */
  readonly own: string;
  /** The best first; at least one. */
  readonly candidates: Iterable<string>;
  /** Why it is not its own id, where it is not. */
  readonly why?: string;
}

class Identifier {
  private readonly taken = new Map<string, Draft>();
  private readonly withRival = new Set<Draft>();
  private readonly byKey: ReadonlyMap<string, Draft>;

  constructor(
    drafts: readonly Draft[],
    private readonly scope: IdentityScope,
  ) {
    this.byKey = new Map(drafts.map((draft) => [draft.key, draft]));
  }

  settle(draft: Draft, { own, candidates }: Proposal): void {
    const { store, corrections, prefix = '', overwrite } = this.scope.options;
    const said = corrections?.get(draft.key)?.number;
    if (said !== undefined) {
      const item = store.byNumber(said);
      this.give(draft, said, item);
      if (item?.isVisible && !this.goesOn(draft, item) && isModel(item.kind) === isModel(draft.product.kind))
        draft.rival = { item, differs: this.differences(draft, item) };
      return;
    }
    const itself = this.asFetched(draft) ?? this.atItsPlace(draft);
    if (itself) {
      this.give(draft, itself.number, itself);
      this.doubtFetched(draft, itself);
      return;
    }
    let rival: KnownItem | undefined;
    for (const candidate of candidates) {
      const number = prefix + candidate;
      const twin = this.taken.get(numberKey(number));
      if (twin && !isSameProduct(twin, draft)) continue;
      const item = store.byNumber(number);
      if (!item || this.goesOn(draft, item) || twin) {
        this.give(draft, number, item);
        if (rival) this.noteRival(draft, rival);
        return;
      }
      rival ??= item;
      if (overwrite?.has(draft.key)) break;
    }
    const [first = own] = candidates;
    this.give(draft, rival?.number ?? prefix + first, rival);
    if (rival?.isVisible && isModel(rival.kind) === isModel(draft.product.kind))
      draft.rival = { item: rival, differs: this.differences(draft, rival) };
  }

  isTaken(number: string): boolean {
    return this.taken.has(numberKey(number));
  }

  private give(draft: Draft, number: string, known: KnownItem | undefined): void {
    draft.number = number;
    if (known) draft.known = known;
    const key = numberKey(number);
    if (!this.taken.has(key)) this.taken.set(key, draft);
  }

  /** What the working copy says that a file was fetched as. */
  private asFetched({ file, product, carrierKey }: Draft): KnownItem | undefined {
    const { store, workingCopy } = this.scope.options;
    const items = workingCopy?.files.get(file.path)?.items ?? [];
    const number =
      carrierKey === undefined
        ? items[0]?.number
        : items.slice(1).find((item) => numberKey(item.number) === numberKey(product.id))?.number;
    const item = number === undefined ? undefined : store.byNumber(number);
    return item?.isVisible && isModel(item.kind) === isModel(product.kind) ? item : undefined;
  }

  /** A file that was fetched as one item and now says that it is another known one is nobody's next version by itself. */
  private doubtFetched(draft: Draft, fetched: KnownItem): void {
    const { id } = draft.product;
    if (id === '' || draft.carrierKey !== undefined || saysItIs(id, fetched)) return;
    const other = this.scope.options.store.byNumber(id);
    if (other?.isVisible && other.id !== fetched.id && isModel(other.kind))
      draft.rival = { item: fetched, differs: `its content, which calls itself ${other.number}` };
    else draft.notes.push(`The file calls itself '${id}'; it goes on as ${fetched.number}.`);
  }

  /** The item whose file lies at the same place of the store, where the file calls itself as that item's does. */
  private atItsPlace({ file, product, carrierKey }: Draft): KnownItem | undefined {
    if (carrierKey !== undefined) return undefined;
    const { store, place, prefix = '' } = this.scope.options;
    const path = storePathOf(place, file.path);
    const item = store.byPath(path, 'exact') ?? store.byPath(path, 'any');
    if (!item?.isVisible || isModel(item.kind) !== isModel(product.kind)) return undefined;
    const isHere = saysItIs(product.id, item) || numberKey(prefix + product.id) === numberKey(item.number);
    return isHere ? item : undefined;
  }

  /** Whether a draft is a further version of an item by where it lives, or the same content. */
  private goesOn(draft: Draft, item: KnownItem): boolean {
    if (!item.isVisible || isModel(item.kind) !== isModel(draft.product.kind)) return false;
    const isCarried = draft.carrierKey !== undefined;
    if (item.newest.sha256 === draft.file.sha256 && isCarried === (item.carrier !== undefined)) return true;
    if (isCarried)
      return item.carrier !== undefined && this.byKey.get(draft.carrierKey ?? '')?.known?.id === item.carrier;
    return item.carrier === undefined && this.placeDiffers(draft, item) === undefined;
  }

  private placeDiffers({ file }: Draft, item: KnownItem): string | undefined {
    const place = placeOf(this.scope.options.place, file.path);
    const name = nameFold(storedNameOf(file.path));
    const isNamed = [item.fileName, ...item.formerFileNames].some((known) => nameFold(known) === name);
    if (nameFold(place) !== nameFold(item.place)) return `the place, ${item.place}`;
    return isNamed ? undefined : `the file name, ${item.fileName}`;
  }

  private differences(draft: Draft, item: KnownItem): string {
    if (draft.carrierKey !== undefined || item.carrier !== undefined)
      return item.carrier === undefined
        ? `its file, ${item.place === '/' ? '' : item.place}/${item.fileName}`
        : 'the file that it lives in';
    return `${this.placeDiffers(draft, item) ?? 'its content'}, and the content`;
  }

  /** Whether it got another number than its own because of something in the store. */
  hasRival(draft: Draft): boolean {
    return this.withRival.has(draft);
  }

  private noteRival(draft: Draft, rival: KnownItem): void {
    this.withRival.add(draft);
    if (!rival.isVisible) {
      draft.notes.push(
        `The number that it would have is taken by something that is not visible to you; here it gets ${draft.number}.`,
      );
      return;
    }
    draft.notes.push(
      `${rival.number} is already in the store (${rival.newest.label}, ${rival.state}), and differs by ${this.differences(draft, rival)}. Here it gets a number of its own; give it the number ${rival.number} to make it a version of that.`,
    );
  }
}

function isSameProduct(one: Draft, two: Draft): boolean {
  return one.file.sha256 === two.file.sha256 && one.product.ref === two.product.ref;
}

/** Whether what a file calls its product is what an item's file or the item itself is called; silence contradicts nothing. */
function saysItIs(id: string, item: KnownItem): boolean {
  return id === '' || id === item.newest.idInFile || numberKey(id) === numberKey(item.number);
}

/**
 * The number is the product's id in its own file. Some systems write the same id into every file and the real
 * one only where it is used; so where an id is doubled, or where the name of the file and those who refer to it
 * agree on another, that other one is proposed.
 */
function proposalsFor(drafts: readonly Draft[], index: FileIndex): Map<Draft, Proposal> {
  const referrers = new Map<string, Set<string>>();
  for (const { file, reading } of drafts) {
    for (const product of reading.products) {
      if (product.locator === undefined) continue;
      const match = index.find(product.locator, file.path);
      const name = product.id || product.name;
      if (match.kind !== 'found' || !name) continue;
      referrers.set(match.path, (referrers.get(match.path) ?? new Set()).add(name));
    }
  }
  const contentsById = new Map<string, Set<string>>();
  for (const draft of drafts) {
    const id = numberKey(ownId(draft));
    contentsById.set(id, (contentsById.get(id) ?? new Set()).add(draft.file.sha256));
  }
  const seenInFile = new Map<string, number>();
  const proposals = new Map<Draft, Proposal>();
  for (const draft of drafts) {
    const own = uniqueInFile(draft, seenInFile);
    const isDoubled = (contentsById.get(numberKey(own))?.size ?? 0) > 1;
    if (draft.carrierKey !== undefined) {
      proposals.set(draft, { own, candidates: [own] });
      continue;
    }
    const [calledByOthers, ...disagreeing] = referrers.get(draft.file.path) ?? [];
    const agreed = disagreeing.length === 0 ? calledByOthers : undefined;
    const isAgreedBetter =
      agreed !== undefined &&
      numberKey(agreed) !== numberKey(own) &&
      (isDoubled || numberKey(agreed) === numberKey(stemOf(draft.file.path)));
    const stem = stemOf(draft.file.path);
    const first = isAgreedBetter ? agreed : isDoubled && agreed === undefined ? stem : own;
    const folder = base(folderOf(draft.file.path));
    proposals.set(draft, {
      own,
      candidates: isDoubled ? namesFrom([first, own, stem], own, folder) : [first, stem],
      why: isAgreedBetter
        ? `The file calls itself '${own}'; proposed is the name by which it is used.`
        : `The file calls itself '${own}', as another one does; proposed is a number of its own.`,
    });
  }
  return proposals;
}

const MOST_OF_ONE_NAME = 999;

/** The names given, then `left-leaf`, `leaf-2`, `leaf-3`, …; made as they are asked for. */
function namesFrom(first: readonly string[], own: string, folder: string): Iterable<string> {
  return {
    *[Symbol.iterator]() {
      yield* first;
      if (folder !== '') yield `${folder}-${own}`;
      for (let count = 2; count <= MOST_OF_ONE_NAME; count++) yield `${own}-${count}`;
    },
  };
}

/** What lives in a new file is told apart from what is called alike by its carrier; in a known one somebody must decide. */
function carriedCandidates(own: string, carrier: Draft, prefix: string): Iterable<string> {
  if (carrier.known) return [own];
  const named = `${carrier.number.slice(carrier.number.startsWith(prefix) ? prefix.length : 0)}.${own}`;
  return namesFrom([own, named], named, '');
}

/** Two products of one file that share an id are told apart by a count. */
function uniqueInFile(draft: Draft, seen: Map<string, number>): string {
  const own = ownId(draft);
  const key = `${draft.file.path}#${numberKey(own)}`;
  const count = (seen.get(key) ?? 0) + 1;
  seen.set(key, count);
  return count === 1 ? own : `${own}-${count}`;
}

/**
 * A drawing or a document has the number that it says; else that of the model it belongs to, with its ending; else its
 * file name. A number that something else has already gets the ending too: a drawing often bears the number of its part.
 */
function settleDocument(draft: Draft, identifier: Identifier, { owners, options }: IdentityScope): void {
  const prefix = options.prefix ?? '';
  const owner = owners.get(draft);
  const ending = endingOf(draft.file.path);
  const folder = base(folderOf(draft.file.path));
  const { id } = draft.product;
  const wanted =
    id !== '' ? prefix + id : owner ? `${numberOf(owner)}${ending}` : prefix + stemOf(draft.file.path);
  const known = options.store.byNumber(wanted);
  const clashes = identifier.isTaken(wanted) || (known !== undefined && isModel(known.kind));
  const first = clashes ? `${wanted}${ending || '-2'}` : wanted;
  // The prefix is in already where the number is that of the model.
  const bare = first.startsWith(prefix) ? first.slice(prefix.length) : first;
  identifier.settle(draft, {
    own: bare,
    candidates: id === '' ? namesFrom([bare], bare, folder) : [bare, stemOf(draft.file.path)],
  });
  if (clashes && draft.number === first)
    draft.notes.push(`${wanted} is taken by something else; proposed is ${first}.`);
  draft.name =
    options.corrections?.get(draft.key)?.name ??
    (draft.product.name || nameOf(owner) || stemOf(draft.file.path));
}

function nameOf(owner: Owner | undefined): string {
  if (!owner) return '';
  return owner.kind === 'row' ? owner.draft.name : owner.item.name;
}

/** `-DXF` */
function endingOf(path: string): string {
  const name = base(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 && dot < name.length - 1 ? `-${name.slice(dot + 1).toUpperCase()}` : '';
}
