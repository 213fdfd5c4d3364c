import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  compareWorkingCopy,
  planUpdate,
  type CopiedFile,
  type PlannedCopy,
  type UpdatePlan,
} from './working-copy.js';

const file = (
  number: string,
  path: string,
  version = 'A/1',
  refersTo: readonly string[] = [],
): CopiedFile => ({
  path,
  sha256: `${number} ${version} ${path}`,
  items: [{ number, version }],
  references: refersTo.map((one) => ({ number: one })),
});
const planned = (number: string, path: string, version = 'A/1', holder?: string): PlannedCopy => ({
  path,
  items: [{ number, version, heldBy: holder === undefined ? null : { login: holder, name: holder } }],
});
const asCopied = (...files: readonly CopiedFile[]): Map<string, string> =>
  new Map(files.map(({ path, sha256 }) => [path, sha256]));

describe('a working copy', () => {
  it('says everything that differs, and nothing where nothing does', () => {
    const copied = [file('A', 'a.stp'), file('B', 'b.stp'), file('C', 'c.stp'), file('D', 'd.stp')];
    const disk = asCopied(...copied);
    const same = copied.map(({ items, path }) => planned(items[0]?.number ?? '', path));
    const none = {
      changed: [],
      behind: [],
      held: [],
      moved: [],
      missing: [],
      fresh: [],
      added: [],
      gone: [],
    };
    expect(compareWorkingCopy(copied, same, disk)).toEqual(none);
    disk.set('a.stp', 'mine');
    disk.set('note.txt', 'new');
    disk.delete('b.stp');
    const now = [
      planned('A', 'a.stp', 'A/2', 'ben'),
      planned('B', 'parts/b.stp'),
      planned('C', 'c.stp'),
      planned('E', 'e.stp', 'B/1'),
    ];
    expect(compareWorkingCopy(copied, now, disk)).toEqual({
      changed: [{ path: 'a.stp', number: 'A' }],
      behind: [{ path: 'a.stp', number: 'A', here: 'A/1', store: 'A/2' }],
      held: [{ path: 'a.stp', number: 'A', login: 'ben', name: 'ben' }],
      moved: [{ path: 'b.stp', number: 'B', to: 'parts/b.stp' }],
      missing: [{ path: 'b.stp', number: 'B' }],
      fresh: ['note.txt'],
      added: [{ path: 'e.stp', number: 'E', store: 'B/1' }],
      gone: [{ path: 'd.stp', number: 'D' }],
    });
  });
});

describe('an update', () => {
  it('brings what is newer, moves what moved, takes away what is gone', () => {
    const copied = [file('A', 'a.stp'), file('B', 'b.stp'), file('C', 'c.stp')];
    const fresh = [file('A', 'a.stp', 'A/2'), file('B', 'parts/b.stp'), file('E', 'e.stp')];
    const plan = planUpdate(copied, fresh, asCopied(...copied));
    expect(plan.write.map(({ path }) => path)).toEqual(['a.stp', 'parts/b.stp', 'e.stp']);
    expect(plan.remove).toEqual(['b.stp', 'c.stp']);
    expect(plan.files).toEqual(fresh);
  });

  it('leaves what is changed here, with what it refers to', () => {
    const copied = [file('A', 'a.stp', 'A/1', ['B', 'C']), file('B', 'b.stp'), file('C', 'c.stp')];
    const fresh = [file('A', 'a.stp', 'A/2', ['B']), file('B', 'parts/b.stp', 'A/2')];
    const disk = asCopied(...copied).set('a.stp', 'mine');
    const plan = planUpdate(copied, fresh, disk);
    expect(plan.write.map(({ path }) => path)).toEqual(['parts/b.stp']);
    expect(plan.remove).toEqual([]);
    expect(plan.kept.map(({ path }) => path)).toEqual(['a.stp', 'b.stp', 'c.stp']);
    // The changed file is still based on what it was made from.
    expect(plan.files.map(({ items }) => items[0])).toEqual([
      { number: 'A', version: 'A/1' },
      { number: 'B', version: 'A/2' },
      { number: 'C', version: 'A/1' },
    ]);
  });

  it('does not write over a file of one’s own', () => {
    const copied = [file('A', 'a.stp')];
    const disk = asCopied(...copied).set('b.stp', 'mine');
    const plan = planUpdate(copied, [file('A', 'a.stp'), file('B', 'b.stp')], disk);
    expect(plan.write).toEqual([]);
    expect(plan.kept).toEqual([{ path: 'b.stp', reason: 'a file of yours lies there' }]);
  });

  it('two files change places', () => {
    const copied = [file('A', 'x.stp'), file('B', 'y.stp')];
    const plan = planUpdate(copied, [file('A', 'y.stp'), file('B', 'x.stp')], asCopied(...copied));
    expect(plan.write.map(({ path }) => path)).toEqual(['y.stp', 'x.stp']);
    expect(plan.remove).toEqual([]);
  });

  const numbers = ['A', 'B', 'C', 'D', 'E'];
  const paths = ['1', '2', '3', '4', '5', '6'];
  const tree = fc
    .record({
      order: fc.shuffledSubarray(paths, { minLength: 5 }),
      there: fc.subarray(numbers),
      versions: fc.array(fc.constantFrom('A/1', 'A/2'), { minLength: 5, maxLength: 5 }),
    })
    .map(({ order, there, versions }) =>
      there.map((number) => {
        const at = numbers.indexOf(number);
        return file(number, order[at] ?? '', versions[at], ['A', 'C']);
      }),
    );

  it('never touches what is not as it was handed out, leaves the rest as it would be handed out, and comes to rest', () => {
    const mine = fc.dictionary(fc.constantFrom(...paths), fc.constant('mine'));
    fc.assert(
      fc.property(tree, tree, mine, fc.subarray(paths), (copied, fresh, own, deleted) => {
        let disk = asCopied(...copied);
        for (const path of deleted) disk.delete(path);
        for (const [path, content] of Object.entries(own)) disk.set(path, content);
        let files: readonly CopiedFile[] = copied;
        let written = Infinity;
        // What has no room the first time may find it the second: then what lay there is gone.
        for (let round = 0; round < 6 && written > 0; round++) {
          const plan = planUpdate(files, fresh, disk);
          disk = carriedOut(plan, disk);
          for (const [path, content] of Object.entries(own)) expect(disk.get(path)).toBe(content);
          const kept = new Set(plan.kept.map(({ path }) => path));
          for (const { path, sha256 } of plan.files)
            if (disk.get(path) !== sha256) expect(kept.has(path)).toBe(true);
          const isWhole = fresh.every(({ path, sha256 }) => disk.get(path) === sha256);
          expect(isWhole || plan.kept.length > 0).toBe(true);
          // A path stands in the manifest once.
          expect(new Set(plan.files.map(({ path }) => path)).size).toBe(plan.files.length);
          files = plan.files;
          written = plan.write.length;
        }
        expect(written).toBe(0);
      }),
      { numRuns: 3000 },
    );
  });
});

function carriedOut(plan: UpdatePlan<CopiedFile>, disk: ReadonlyMap<string, string>): Map<string, string> {
  const after = new Map(disk);
  for (const path of plan.remove) after.delete(path);
  for (const { path, sha256 } of plan.write) after.set(path, sha256);
  return after;
}
