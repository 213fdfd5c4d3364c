import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { rightsAt, RIGHTS, upwards, type Grant, type PlaceAccess, type Right } from './rights.js';

const place = (path: string, given: Partial<PlaceAccess> = {}): PlaceAccess => ({
  path,
  inherits: true,
  isBinned: false,
  grants: [],
  ...given,
});
const toRole = (role: string, ...rights: Right[]): Grant => ({ to: { kind: 'role', role }, rights });
const toPerson = (login: string, ...rights: Right[]): Grant => ({ to: { kind: 'person', login }, rights });
const tree = (...places: PlaceAccess[]): Map<string, PlaceAccess> =>
  new Map(places.map((each) => [each.path, each]));
const ada = { login: 'ada', role: 'engineer' };
const rights = (places: Map<string, PlaceAccess>, path: string, who = ada): Right[] =>
  RIGHTS.filter((right) => rightsAt(places, path, who).has(right));

describe('rights', () => {
  it('hold below the place where they are granted, by role and by person', () => {
    const places = tree(
      place('/', { grants: [toRole('engineer', 'see', 'fetch')] }),
      place('/a/b', { grants: [toPerson('ada', 'change')] }),
    );
    expect(rights(places, '/')).toEqual(['see', 'receive', 'fetch']);
    expect(rights(places, '/a')).toEqual(['see', 'receive', 'fetch']);
    expect(rights(places, '/a/b/not/made/yet')).toEqual(['see', 'receive', 'fetch', 'change']);
    expect(rights(places, '/a/b', { login: 'ben', role: 'engineer' })).toEqual(['see', 'receive', 'fetch']);
    expect(rights(places, '/a/b', { login: 'ben', role: 'viewer' })).toEqual([]);
    expect(rights(places, '/ab')).toEqual(['see', 'receive', 'fetch']);
  });

  it('from above end at a place that does not inherit', () => {
    const places = tree(
      place('/', { grants: [toRole('engineer', 'change')] }),
      place('/secret', { inherits: false, grants: [toPerson('ben', 'fetch')] }),
    );
    expect(rights(places, '/secret/below')).toEqual([]);
    expect(rights(places, '/secret', { login: 'ben', role: 'engineer' })).toEqual([
      'see',
      'receive',
      'fetch',
    ]);
  });

  it('are nobody’s in the bin, and all an administrator’s elsewhere', () => {
    const boss = { login: 'root', role: 'administrator' };
    const places = tree(
      place('/', { grants: [toRole('engineer', 'change')] }),
      place('/old', { isBinned: true }),
      place('/old/cut', { inherits: false, grants: [toPerson('ada', 'see')] }),
    );
    for (const path of ['/old', '/old/below', '/old/cut'])
      expect([rights(places, path), rights(places, path, boss)]).toEqual([[], []]);
    expect(rights(places, '/any', boss)).toEqual([...RIGHTS]);
  });

  const name = fc.constantFrom('a', 'b', 'c');
  const path = fc.array(name, { maxLength: 4 }).map((parts) => `/${parts.join('/')}`);
  const granted = fc.record({
    to: fc.constantFrom<Grant['to']>(
      { kind: 'person', login: 'ada' },
      { kind: 'role', role: 'engineer' },
      { kind: 'role', role: 'viewer' },
    ),
    rights: fc.uniqueArray(fc.constantFrom(...RIGHTS), { minLength: 1 }),
  });
  const places = fc
    .array(
      fc.record({
        path,
        inherits: fc.boolean(),
        isBinned: fc.constant(false),
        grants: fc.array(granted, { maxLength: 3 }),
      }),
      { maxLength: 8 },
    )
    .map((list) => tree(...list));

  it('only grow on the way down where everything inherits', () => {
    fc.assert(
      fc.property(places, path, name, (given, above, below) => {
        const inheriting = tree(...[...given.values()].map((each) => ({ ...each, inherits: true })));
        const deeper = rightsAt(inheriting, above === '/' ? `/${below}` : `${above}/${below}`, ada);
        for (const right of rightsAt(inheriting, above, ada)) expect(deeper.has(right)).toBe(true);
      }),
    );
  });

  it('hold what they are made of: to see is part of all, and to receive of to fetch', () => {
    fc.assert(
      fc.property(places, path, (given, at) => {
        const mine = rightsAt(given, at, ada);
        if (mine.size > 0) expect(mine.has('see')).toBe(true);
        if (mine.has('fetch')) expect(mine.has('receive')).toBe(true);
      }),
    );
    const received = tree({
      ...{ path: '/', inherits: true, isBinned: false },
      grants: [{ to: { kind: 'person', login: 'ada' }, rights: ['receive'] }],
    });
    expect(rights(received, '/')).toEqual(['see', 'receive']);
  });

  it('of one do not depend on what is granted to others', () => {
    fc.assert(
      fc.property(places, path, (given, at) => {
        const mine = tree(
          ...[...given.values()].map((each) => ({
            ...each,
            grants: each.grants.filter(({ to }) => !(to.kind === 'role' && to.role === 'viewer')),
          })),
        );
        expect(rights(mine, at)).toEqual(rights(given, at));
      }),
    );
  });

  it('go up to the root and no further', () => {
    expect([...upwards('/a/b')]).toEqual(['/a/b', '/a', '/']);
    expect([...upwards('/')]).toEqual(['/']);
  });
});
