/** Random histories: what the store says is held against a model that only knows what was done. */
import type { FetchManifest, IntakeView } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { dxf } from '../../../packages/formats/src/testing/dxf.js';
import {
  LOCATOR_STYLES,
  stepFile,
  type LocatorStyle,
  type StepUse,
} from '../../../packages/formats/src/testing/step-sets.js';
import { everyNameHasAFile } from './testing/case-sensitive-disk.js';
import { HistoryModel, type ModelLens, type ModelLink } from './testing/history-model.js';
import { TestStore, type Files } from './testing/test-store.js';

/** Enough to meet each kind of step some times; `STEM_HISTORY_STEPS` runs longer ones. */
const STEPS = Number(process.env.STEM_HISTORY_STEPS ?? 100);
const STEPS_OF_ONE = 25;
const LENSES: readonly ModelLens[] = ['newest', 'recorded', 'released'];

/** How often each kind of step was really taken. */
const taken = new Map<string, number>();

let store: TestStore;
let admin: Readonly<Record<string, string>>;

beforeAll(async () => {
  store = await TestStore.open();
  admin = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
});

afterAll(() => store.close());

it.each(Array.from({ length: Math.ceil(STEPS / STEPS_OF_ONE) }, (_, at) => at + 1))(
  'history %i is what the model says',
  async (seed) => {
    const history = new History(seed);
    for (let step = 0; step < STEPS_OF_ONE; step++) {
      const did = await history.step();
      await history.check(did);
    }
  },
  120_000,
);

it('the histories took every kind of step', () => {
  const kinds = [
    'add',
    'assemble',
    'change',
    'check',
    'bring',
    'rename',
    'move',
    'derive',
    'release',
    'draw',
    'embed',
  ];
  for (const kind of kinds) expect(taken.get(kind) ?? 0, kind).toBeGreaterThan(0);
  expect(taken.get('nothing') ?? 0).toBeLessThan(STEPS / 2);
});

interface WorkingCopy {
  readonly item: string;
  readonly at: number;
  readonly lens: ModelLens;
  readonly files: Files;
  readonly manifest: FetchManifest;
  /** Position of each item's version when it was fetched. */
  readonly seen: ReadonlyMap<string, number>;
}

class History {
  private readonly model = new HistoryModel();
  private readonly random: () => number;
  private count = 0;
  private readonly copies: WorkingCopy[] = [];
  private readonly said: string[] = [];
  private readonly root: string;

  constructor(private readonly seed: number) {
    this.random = mulberry32(seed);
    this.root = `/h${seed}`;
  }

  async step(): Promise<string> {
    const steps = [
      this.addParts,
      this.addParts,
      this.assemble,
      this.assemble,
      this.assemble,
      this.changePart,
      this.changeAssembly,
      this.changeAssembly,
      this.checkOut,
      this.checkIn,
      this.saveAs,
      this.bringBack,
      this.bringBack,
      this.bringBack,
      this.changePart,
      this.rename,
      this.move,
      this.derive,
      this.derive,
      this.derive,
      this.release,
      this.draw,
      this.embed,
      this.changeEmbedding,
    ];
    const chosen = this.models().length < 3 ? this.addParts : this.pick(steps);
    const did = (await chosen.call(this)) ?? 'nothing';
    this.said.push(did);
    const kind = did.replace(/ .*/, '');
    taken.set(kind, (taken.get(kind) ?? 0) + 1);
    return did;
  }

  /** Asks the store about a few items and compares. */
  async check(did: string): Promise<void> {
    const numbers = [...this.model.items.keys()];
    const context = `seed ${this.seed}, after: ${this.said.slice(-6).join('; ')}`;
    for (const number of new Set([this.pick(numbers), numbers.at(-1) ?? ''])) {
      for (const lens of LENSES) {
        if (this.model.root(number, lens) < 0) continue;
        const { rows } = await store.made(number, `&lens=${lens}`);
        const got = rows.map((row) => `${row.number} ${row.version ?? 'gap'} ${row.total}`).sort();
        const expected = this.model
          .explode(number, lens)
          .map((row) => `${row.number} ${row.version ?? 'gap'} ${row.total}`)
          .sort();
        expect(got, `${number} under ${lens}, ${context}`).toEqual(expected);
      }
      const used = await store.used(number, '&lens=newest');
      expect(
        [...new Set(used.rows.map((row) => row.number))].sort(),
        `users of ${number}, ${context}`,
      ).toEqual(this.model.usersOf(number).sort());
    }
    const number = this.pick(numbers);
    const lens = this.pick(LENSES);
    const at = this.model.root(number, lens);
    if (at < 0) return;
    const fetched = await store.fetch(number, `&lens=${lens}`);
    const gaps = this.model.explode(number, lens).some(({ version }) => version === null);
    if (!gaps)
      await everyNameHasAFile(fetched.files).catch((error: unknown) =>
        expect.fail(`${number} under ${lens}, ${context}: ${String(error)}`),
      );
    const older = Math.floor(this.random() * (at + 1));
    await store.fetch(`${number}@${this.model.label(number, older)}`, '&lens=recorded');
    if (did.startsWith('derive'))
      expect(
        (
          await store.json<{ faults: string[] }>(
            'GET',
            `/api/derive/proof?item=${encodeURIComponent(numbers.at(-1) ?? '')}`,
          )
        ).faults,
        context,
      ).toEqual([]);
  }

  private async addParts(): Promise<string> {
    const folder = this.folder();
    const number = this.number('P');
    // The same base names in many folders.
    const fileName = this.free(folder, this.pick(['leaf.stp', 'Leaf 1.stp', 'part.stp', `${number}.stp`]));
    await this.intake(folder, { [fileName]: stepFile({ id: number, fileName }) });
    this.model.add(number, { place: folder, fileName });
    this.model.version(number, []);
    return `add ${number} as ${folder}/${fileName}`;
  }

  private async assemble(): Promise<string> {
    const place = this.folder();
    const number = this.number('A');
    const fileName = `${number}.stp`;
    const links = this.someLinks(place, this.models());
    await this.intake(place, { [fileName]: this.assemblyFile(number, fileName, links, this.style()) });
    this.model.add(number, { place, fileName });
    this.model.version(number, links);
    return `assemble ${number} of ${links.map(({ child }) => child).join(', ')}`;
  }

  private async changePart(): Promise<string | undefined> {
    const part = this.pick(
      this.own().filter(
        ({ number, versions }) =>
          !this.isHeld(number) && versions.at(-1)?.links.length === 0 && !number.startsWith('D'),
      ),
    );
    if (!part) return undefined;
    const bytes = stepFile({ id: part.number, fileName: part.fileName, more: `/* ${++this.count} */\n` });
    await this.intake(part.place, { [part.fileName]: bytes });
    this.model.version(part.number, []);
    return `change ${part.number}`;
  }

  /** The assembly alone comes in again: what it used stays as it was seen, what is new is seen as it is. */
  private async changeAssembly(): Promise<string | undefined> {
    const assembly = this.pick(
      this.assemblies().filter(
        ({ number, versions }) =>
          !this.isHeld(number) && versions.at(-1)?.links.every(({ isCarried }) => !isCarried),
      ),
    );
    if (!assembly) return undefined;
    const before = assembly.versions.at(-1)?.links ?? [];
    const kept = before
      .filter((_, at) => at === 0 || this.random() < 0.7)
      .map((link) => ({ ...link, locator: this.spoken(assembly.place, link) }));
    const below = this.models().filter(
      ({ versions }) => (versions[0]?.at ?? 0) < (assembly.versions[0]?.at ?? 0),
    );
    const added = this.someLinks(assembly.place, below, 1).filter(
      ({ child }) => !before.some((link) => link.child === child),
    );
    const links = [...kept, ...(this.random() < 0.5 ? added : [])];
    await this.intake(assembly.place, {
      [assembly.fileName]: this.assemblyFile(
        assembly.number,
        assembly.fileName,
        links,
        this.style(),
        ++this.count,
      ),
    });
    // A text that the version before did not say is looked for anew, and what lies there is seen as it is now.
    this.model.version(
      assembly.number,
      links.map((link) => {
        const known = before.find(({ locator }) => locator === link.locator);
        return known ? { ...link, seen: known.seen } : { ...link, seen: this.model.newest(link.child) };
      }),
    );
    return `change ${assembly.number} to ${links.map(({ child }) => child).join(', ')}`;
  }

  private async checkOut(): Promise<string | undefined> {
    const item = this.pick(
      this.own().filter(
        ({ number, released, versions }) =>
          !this.isHeld(number) && !number.startsWith('D') && !released.has(versions.at(-1)?.revision ?? 0),
      ),
    );
    if (!item) return undefined;
    await store.json('POST', '/api/holds', { items: [item.number], reason: '' });
    const lens = this.pick(['newest', 'recorded'] as const);
    const fetched = await store.fetch(item.number, `&lens=${lens}`);
    const seen = new Map<string, number>();
    for (const [number, at] of this.model.reach(item.number, lens).values()) seen.set(number, at);
    this.copies.push({ item: item.number, at: this.model.newest(item.number), lens, seen, ...fetched });
    return `check out ${item.number} under ${lens}`;
  }

  private async checkIn(): Promise<string | undefined> {
    const copy = this.copies.splice(Math.floor(this.random() * this.copies.length), 1)[0];
    if (!copy) return undefined;
    const path = this.rootPath(copy);
    const bytes = new TextEncoder().encode(
      new TextDecoder().decode(copy.files.get(path)).replace('DATA;', `DATA;/* ${++this.count} */`),
    );
    return this.sendBack(copy, { [path]: bytes }, (link) => link);
  }

  /** A part of the working copy is saved under another name and used from there: a new item, and the old one as it was. */
  private async saveAs(): Promise<string | undefined> {
    const at = this.copies.findIndex((copy) =>
      (this.model.item(copy.item).versions[copy.at]?.links ?? []).some(({ isCarried }) => !isCarried),
    );
    const copy = at < 0 ? undefined : this.copies.splice(at, 1)[0];
    if (!copy) return undefined;
    const links = this.model.item(copy.item).versions[copy.at]?.links ?? [];
    const link = links.find(({ isCarried }) => !isCarried);
    const path = this.rootPath(copy);
    const target = copy.manifest.files.find(({ items }) => items[0]?.number === link?.child)?.path;
    if (!link || target === undefined) return this.letGo(copy);
    const name = `saved ${++this.count} s${this.seed}`;
    const folder = target.includes('/') ? target.slice(0, target.lastIndexOf('/') + 1) : '';
    const says =
      copy.manifest.files
        .find((file) => file.path === path)
        ?.references?.find(({ number }) => number === link.child)?.says ?? '';
    const newSays = `${says.slice(0, says.lastIndexOf('/') + 1)}${name}.stp`;
    const text = new TextDecoder().decode(copy.files.get(path));
    const changed = text
      .replaceAll(`'${says.replaceAll("'", "''")}`, `'${newSays}`)
      .replace('DATA;', `DATA;/* ${this.count} */`);
    const saved = new TextDecoder()
      .decode(copy.files.get(target))
      .replace('DATA;', `DATA;/* saved ${this.count} */`);
    if (
      changed === text ||
      !/^ISO-10303/.test(saved) ||
      this.model.item(link.child).versions.at(-1)?.links.length !== 0
    )
      return this.letGo(copy);
    return this.sendBack(
      copy,
      {
        [path]: new TextEncoder().encode(changed),
        [`${folder}${name}.stp`]: new TextEncoder().encode(saved),
      },
      (each) => (each.child === link.child ? { ...each, child: name, locator: newSays, seen: 0 } : each),
      () => {
        this.model.add(name, {
          place: this.placeOfPath(copy, `${folder}${name}.stp`),
          fileName: `${name}.stp`,
        });
        this.model.version(name, []);
      },
    );
  }

  private async bringBack(): Promise<string | undefined> {
    const item = this.pick(
      this.own().filter(
        ({ number, versions, released }) =>
          !this.isHeld(number) &&
          versions.length > 1 &&
          !released.has(versions.at(-1)?.revision ?? 0) &&
          versions.every(({ links }) => links.every(({ isCarried }) => !isCarried)),
      ),
    );
    if (!item) return undefined;
    const at = Math.floor(this.random() * (item.versions.length - 1));
    await store.json('POST', '/api/holds', { items: [item.number], reason: '' });
    const label = this.model.label(item.number, at);
    const links = item.versions[at]?.links ?? [];
    await store.json('POST', '/api/bring-back', { item: `${item.number}@${label}`, comment: '' });
    await store.json('POST', '/api/holds/let-go', { items: [item.number] });
    this.model.version(item.number, links);
    return `bring back ${item.number}@${label}`;
  }

  private async rename(): Promise<string | undefined> {
    const item = this.pick(
      this.own().filter(({ number }) => !this.isHeld(number) && !number.startsWith('D')),
    );
    if (!item) return undefined;
    // Names that others begin with.
    const fileName = this.free(
      item.place,
      `r${++this.count % 3}${'0'.repeat(this.count % 4)} s${this.count}.stp`,
    );
    await store.call('POST', '/api/items/rename', {
      item: item.number,
      name: this.pick(['Leaf', 'Leaf 1', 'part', 'P']),
      fileName,
    });
    item.fileName = fileName;
    return `rename ${item.number} to ${fileName}`;
  }

  private async move(): Promise<string | undefined> {
    const item = this.pick(this.own().filter(({ number }) => !this.isHeld(number)));
    if (!item) return undefined;
    const place = this.folder();
    if (
      [...this.model.items.values()].some(
        (other) =>
          other !== item &&
          other.place === place &&
          other.fileName.toLowerCase() === item.fileName.toLowerCase(),
      )
    )
      return undefined;
    await store.call('POST', '/api/items/move', { items: [item.number], place });
    item.place = place;
    return `move ${item.number} to ${place}`;
  }

  private async derive(): Promise<string | undefined> {
    const top = this.pick(this.assemblies());
    if (!top || this.model.items.size > 60) return undefined;
    const prefix = `V${++this.count}s${this.seed}-`;
    const isAll = this.random() < 0.6;
    const place = `${this.root}/variants ${this.count}`;
    const drawings = await this.drawingsOf(top.number, isAll);
    await store.json('POST', '/api/derive', {
      item: top.number,
      copy: isAll ? 'all' : 'none',
      share: drawings,
      prefix,
      place,
    });
    this.model.derive(top.number, { prefix, place, isAll });
    return `derive ${prefix}${top.number}${isAll ? ' with all' : ''}`;
  }

  private async release(): Promise<string | undefined> {
    const item = this.pick(
      this.own().filter(
        ({ number, released, versions }) =>
          !this.isHeld(number) && !released.has(versions.at(-1)?.revision ?? 0),
      ),
    );
    if (!item) return undefined;
    for (const step of ['ask for check', 'release'])
      await store.call('POST', '/api/steps', { items: [item.number], step, reason: '' }, admin);
    this.model.release(item.number);
    return `release ${item.number}`;
  }

  private async draw(): Promise<string | undefined> {
    const shown = this.pick(this.models());
    if (!shown) return undefined;
    const place = this.folder();
    const [number, frame] = [this.number('D'), this.number('D')];
    const names = [`${number}.dxf`, `${frame}.dxf`] as const;
    await this.intake(place, {
      [names[0]]: dxf({
        fields: { DRAWING_NUMBER: number, PART_NUMBER: shown.number },
        attached: { frame: `.\\${names[1]}` },
      }),
      [names[1]]: dxf({ fields: { DRAWING_NUMBER: frame } }),
    });
    this.model.add(frame, { place, fileName: names[1], isDrawing: true });
    this.model.version(frame, []);
    this.model.add(number, { place, fileName: names[0], isDrawing: true });
    this.model.version(number, [
      { child: frame, seen: 0, quantity: 1, isCarried: false, locator: `.\\${names[1]}` },
    ]);
    return `draw ${shown.number} as ${number}`;
  }

  /** A file that holds a product called like one of the store takes nothing from it. */
  private async embed(): Promise<string | undefined> {
    const like = this.pick(this.own().filter(({ number }) => number.startsWith('P')));
    if (!like) return undefined;
    const place = this.folder();
    const number = this.number('E');
    const fileName = `${number}.stp`;
    await this.intake(place, { [fileName]: this.embedding(number, fileName, like.number) });
    const inside = `${number}.${like.number}`;
    this.model.add(number, { place, fileName });
    this.model.add(inside, { place, fileName: '' });
    this.model.version(inside, []);
    this.model.version(number, [{ child: inside, seen: 0, quantity: 2, isCarried: true, locator: '' }]);
    return `embed ${like.number} in ${number}`;
  }

  private async changeEmbedding(): Promise<string | undefined> {
    const item = this.pick(
      this.own().filter(
        ({ number, released, versions }) =>
          number.startsWith('E') && !this.isHeld(number) && !released.has(versions.at(-1)?.revision ?? 0),
      ),
    );
    const child = item?.versions.at(-1)?.links[0]?.child;
    if (!item || child === undefined) return undefined;
    await this.intake(item.place, {
      [item.fileName]: this.embedding(item.number, item.fileName, child, ++this.count),
    });
    this.model.version(child, []);
    this.model.version(item.number, [
      { child, seen: this.model.newest(child), quantity: 2, isCarried: true, locator: '' },
    ]);
    return `change ${item.number} with what lives in it`;
  }

  private embedding(number: string, fileName: string, id: string, change = 0): Uint8Array {
    return stepFile({ id: number, fileName, uses: [{ id, count: 2 }], more: `/* ${change} */\n` });
  }

  private async sendBack(
    copy: WorkingCopy,
    files: Readonly<Record<string, Uint8Array>>,
    relink: (link: ModelLink) => ModelLink,
    also: () => void = () => undefined,
  ): Promise<string> {
    const item = this.model.item(copy.item);
    const sheet = await store.json<IntakeView>('POST', '/api/intakes', {
      place: '/',
      manifest: copy.manifest,
    });
    for (const [path, bytes] of Object.entries(files))
      await store.call('PUT', `/api/intakes/${sheet.id}/files?path=${encodeURIComponent(path)}`, bytes);
    const before = copy.at === this.model.newest(copy.item);
    if (!before) {
      // Somebody was faster: nothing may come in, and the working copy is told so.
      const view = await store.json<IntakeView>('GET', `/api/intakes/${sheet.id}`);
      expect(view.rows.find(({ number }) => number === copy.item)?.status).toBe('refused');
      return this.letGo(copy);
    }
    const done = await store.carryOut(sheet.id);
    expect(done.result?.refused, `check-in of ${copy.item}, seed ${this.seed}`).toEqual([]);
    also();
    const links = item.versions[copy.at]?.links ?? [];
    // What lives in the file comes in again with it.
    const carried = links.filter(({ isCarried }) => isCarried);
    for (const { child } of carried) this.model.version(child, []);
    this.model.version(
      copy.item,
      links.map((link) => {
        const now = relink(link);
        if (now !== link) return now;
        return {
          ...link,
          seen: link.isCarried ? this.model.newest(link.child) : (copy.seen.get(link.child) ?? link.seen),
        };
      }),
    );
    return `check in ${copy.item}`;
  }

  private async letGo(copy: WorkingCopy): Promise<string> {
    await store.json('POST', '/api/holds/let-go', { items: [copy.item] });
    return `let go ${copy.item}`;
  }

  private rootPath({ manifest, item }: WorkingCopy): string {
    return manifest.files.find(({ items }) => items[0]?.number === item)?.path ?? '';
  }

  private placeOfPath(copy: WorkingCopy, path: string): string {
    const root = this.rootPath(copy);
    const up = root.includes('/') ? root.slice(0, root.lastIndexOf('/')) : '';
    const base = this.model.item(copy.item).place.slice(0, -(up.length + 1) || undefined);
    return path.includes('/')
      ? `${up === '' ? this.model.item(copy.item).place : base}/${path.slice(0, path.lastIndexOf('/'))}`
      : up === ''
        ? this.model.item(copy.item).place
        : base;
  }

  /** Drawings stay with the origin, so that the model need not know which show what. */
  private async drawingsOf(number: string, isAll: boolean): Promise<string[]> {
    const preview = await store.json<{ lines: { number: string; kind: string }[] }>(
      'POST',
      '/api/derive/preview',
      { item: number, copy: isAll ? 'all' : 'none', prefix: 'Z-' },
    );
    const tree = new Set(this.model.explode(number, 'recorded').map((row) => row.number));
    return preview.lines.flatMap((line) =>
      line.kind === 'drawing' && !tree.has(line.number) ? [line.number] : [],
    );
  }

  private async intake(place: string, files: Readonly<Record<string, Uint8Array>>): Promise<void> {
    const result = await store.intake(new Map(Object.entries(files)), { place });
    expect(
      [result.problems, result.refused, result.gaps],
      `seed ${this.seed}, after: ${this.said.slice(-6).join('; ')}`,
    ).toEqual([[], [], []]);
  }

  private assemblyFile(
    id: string,
    fileName: string,
    links: readonly ModelLink[],
    style: LocatorStyle,
    change = 0,
  ): Uint8Array {
    const uses: StepUse[] = links.map(({ child, locator, quantity }) => ({
      id: child,
      locator,
      count: quantity,
    }));
    return stepFile({ id, fileName, uses, style, more: `/* ${change} */\n` });
  }

  private someLinks(place: string, from: readonly { number: string }[], most = 3): ModelLink[] {
    const chosen = new Set(
      Array.from({ length: 1 + Math.floor(this.random() * most) }, () => this.pick(from)?.number ?? ''),
    );
    chosen.delete('');
    return [...chosen].map((child) => ({
      child,
      seen: this.model.newest(child),
      quantity: 1 + Math.floor(this.random() * 3),
      isCarried: false,
      locator: this.path(place, child),
    }));
  }

  /** How the file says where a child lies: as before where it did not move, else where it lies now. */
  private spoken(place: string, link: ModelLink): string {
    const now = this.path(place, link.child);
    return now.toLowerCase() === link.locator.replaceAll('\\', '/').toLowerCase() ? link.locator : now;
  }

  private path(place: string, child: string): string {
    const { place: to, fileName } = this.model.item(child);
    const [from, target] = [place.split('/').slice(1), to.split('/').slice(1)];
    let same = 0;
    while (same < from.length && same < target.length && from[same] === target[same]) same++;
    return [...from.slice(same).map(() => '..'), ...target.slice(same), fileName].join('/');
  }

  private own(): ReturnType<HistoryModel['item']>[] {
    return [...this.model.items.values()].filter(
      ({ number, fileName }) => /^[PAED]\d/.test(number) && fileName !== '',
    );
  }

  private models(): ReturnType<HistoryModel['item']>[] {
    return [...this.model.items.values()].filter(({ fileName, isDrawing }) => fileName !== '' && !isDrawing);
  }

  private assemblies(): ReturnType<HistoryModel['item']>[] {
    return this.own().filter(
      ({ number, versions }) => number.startsWith('A') && (versions.at(-1)?.links.length ?? 0) > 0,
    );
  }

  private isHeld(number: string): boolean {
    return this.copies.some(({ item }) => item === number);
  }

  private number(kind: string): string {
    return `${kind}${++this.count}s${this.seed}`;
  }

  private folder(): string {
    return `${this.root}/${this.pick(['a', 'b', 'a/deep', 'Ü b'])}`;
  }

  private free(place: string, wanted: string): string {
    const taken = [...this.model.items.values()].some(
      (item) => item.place === place && item.fileName.toLowerCase() === wanted.toLowerCase(),
    );
    return taken ? `${wanted.replace(/\.stp$/, '')} ${++this.count}.stp` : wanted;
  }

  private style(): LocatorStyle {
    return this.pick(LOCATOR_STYLES.filter((style) => style !== 'comments'));
  }

  private pick<T>(list: readonly T[]): T {
    return list[Math.floor(this.random() * list.length)] as T;
  }
}

/** A small generator of numbers in [0, 1), the same for the same seed. */
function mulberry32(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
