/** The language of the find box: what it reads, what it refuses and where, and what it offers. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { completeQuery, quoted } from './complete.js';
import { parseQuery } from './parse.js';
import type { Query, QueryProblem, QueryWords } from './query.js';

const WORDS: QueryWords = {
  properties: [
    { name: 'mass', kind: 'number', unit: 'kg', choices: [] },
    { name: 'wall thickness', kind: 'number', unit: 'mm', choices: [] },
    { name: 'teeth', kind: 'number', unit: '', choices: [] },
    { name: 'material', kind: 'text', unit: '', choices: [] },
    { name: 'finish', kind: 'choice', unit: '', choices: ['as machined', 'painted'] },
    { name: 'approved on', kind: 'date', unit: '', choices: [] },
    { name: 'spare part', kind: 'yes/no', unit: '', choices: [] },
  ],
  states: ['draft', 'in check', 'released', 'superseded', 'withdrawn'],
  classes: ['Fastener', 'Sheet metal'],
  people: [
    { login: 'ada', name: 'Ada Holm' },
    { login: 'ben', name: 'Ben Ito' },
  ],
  places: ['/Frames', '/Supplier terms/Old', '/Supplier terms'],
  me: 'ada',
  today: '2026-11-25',
};

function read(text: string): Query {
  const parsed = parseQuery(text, WORDS);
  if (parsed.kind === 'problem') throw new Error(`${parsed.problem.from}: ${parsed.problem.says}`);
  return parsed.query;
}

function refused(text: string): QueryProblem {
  const parsed = parseQuery(text, WORDS);
  if (parsed.kind === 'query') throw new Error(`was read as ${JSON.stringify(parsed.query)}`);
  return parsed.problem;
}

const word = (text: string): Query => ({ kind: 'words', text });

describe('reading a query', () => {
  it('joins words, phrases and brackets', () => {
    expect(read('')).toEqual({ kind: 'all' });
    expect(read('bracket "left hand"')).toEqual({ kind: 'and', parts: [word('bracket'), word('left hand')] });
    expect(read('a or b and not c')).toEqual({
      kind: 'or',
      parts: [word('a'), { kind: 'and', parts: [word('b'), { kind: 'not', part: word('c') }] }],
    });
    expect(read('(a or b) c')).toEqual({
      kind: 'and',
      parts: [{ kind: 'or', parts: [word('a'), word('b')] }, word('c')],
    });
    expect(read('"or"')).toEqual(word('or'));
    expect(read('FM-2210/5,5')).toEqual(word('FM-2210/5,5'));
  });

  it('reads numbers with any unit that fits, in SI', () => {
    const thickness = (range: object): object => ({
      kind: 'quantity',
      name: 'wall thickness',
      unit: expect.any(String) as string,
      range,
    });
    const near = (value: number): number => expect.closeTo(value, 9) as number;
    const closed = (from: number, to: number): object => ({
      from: near(from),
      to: near(to),
      withFrom: true,
      withTo: true,
    });
    expect(read('wall thickness = 8 mm..12 mm')).toEqual(thickness(closed(0.008, 0.012)));
    expect(read('wall thickness=8..12mm')).toEqual(thickness(closed(0.008, 0.012)));
    expect(read('"wall thickness" = 1 in')).toEqual(thickness(closed(0.0254, 0.0254)));
    expect(read('wall thickness = 8..1.2')).toEqual(thickness(closed(0.0012, 0.008)));
    expect(read('wall thickness ≥ 0,5 cm')).toEqual(
      thickness({ from: near(0.005), withFrom: true, withTo: false }),
    );
    expect(read('mass < 500 g bracket')).toEqual({
      kind: 'and',
      parts: [
        {
          kind: 'quantity',
          name: 'mass',
          unit: 'kg',
          range: { to: near(0.5), withFrom: false, withTo: false },
        },
        word('bracket'),
      ],
    });
    expect(read('wall thickness = 8 in /Frames')).toMatchObject({
      parts: [{ range: { to: near(0.008) } }, { kind: 'in', place: '/Frames' }],
    });
  });

  it('reads choices, days, people and places, whose names may have blanks', () => {
    expect(read('state = draft, in check')).toEqual({
      kind: 'option',
      field: 'state',
      values: ['draft', 'in check'],
    });
    expect(read('state != released')).toEqual({
      kind: 'not',
      part: { kind: 'option', field: 'state', values: ['released'] },
    });
    expect(read('finish = AS MACHINED')).toMatchObject({ texts: ['as machined'] });
    expect(read('class = sheet metal')).toMatchObject({ values: ['Sheet metal'] });
    expect(read('changed = last 30 days')).toEqual({
      kind: 'time',
      field: 'changed',
      range: { from: '2026-10-26', to: '2026-11-25' },
    });
    expect(read('changed = 2026-01..2026-02')).toMatchObject({
      range: { from: '2026-01-01', to: '2026-02-28' },
    });
    expect(read('approved on > 2026')).toMatchObject({ kind: 'day', range: { from: '2027-01-01' } });
    expect(read('by = ben ito')).toEqual({ kind: 'by', login: 'ben' });
    expect(read('held by me')).toEqual({ kind: 'held', login: 'ada' });
    expect(read('in /supplier terms bolt')).toEqual({
      kind: 'and',
      parts: [{ kind: 'in', place: '/Supplier terms' }, word('bolt')],
    });
  });

  it('reads relations, and takes their words as words where nothing follows', () => {
    expect(read('used in FM-1000')).toMatchObject({
      relation: 'used in',
      item: 'FM-1000',
      at: { from: 8, to: 15 },
    });
    expect(read('part made of FM-1 without drawing')).toMatchObject({
      parts: [
        word('part'),
        { relation: 'made of' },
        { kind: 'not', part: { kind: 'with', what: 'drawing' } },
      ],
    });
    expect(read('without wall thickness')).toMatchObject({ part: { what: { property: 'wall thickness' } } });
    expect(read('like')).toEqual(word('like'));
    expect(read('box has lid')).toMatchObject({
      kind: 'and',
      parts: [word('box'), word('has'), word('lid')],
    });
    expect(read('material has steel')).toMatchObject({ kind: 'property', how: 'has', texts: ['steel'] });
  });

  it.each([
    ['mas = 3', 0, /Did you mean mass\?/],
    ['bracket (a or b', 8, /never closed/],
    ['a ) b', 2, /closes none/],
    ['mass = heavy', 7, /mass is a number in kg/],
    ['mass > 3mm', 7, /does not fit/],
    ['state = done', 8, /one of draft, in check/],
    ['state < draft', 6, /one of several/],
    ['changed = soon', 10, /last 30 days/],
    ['by = nobody', 5, /nobody called/],
    ['a or', 4, /missing at the end/],
    ['= 3', 0, /stands after a name/],
    ['without wings', 8, /With or without what/],
    ['name = "open', 7, /quote is never closed/],
    [`${'('.repeat(40)}a`, 30, /at most 30 deep/],
  ])('refuses %j with where and what', (text, from, says) => {
    const found = refused(text);
    expect(found.says).toMatch(says);
    expect(found.from).toBe(from);
  });
});

const PIECES = [
  ...[
    'mass',
    'wall',
    'thickness',
    'state',
    'changed',
    'by',
    'held',
    'in',
    'with',
    'used',
    'made',
    'of',
    'like',
  ],
  ...['and', 'or', 'not', '(', ')', '"', ',', '..', '…', '=', '!=', '≠', '<', '<=', '≥', '!', '.', 'has'],
  ...[
    '8',
    '1e400',
    '-3',
    '8mm',
    'mm',
    'kg',
    'draft',
    'last',
    '30',
    'days',
    '2026-02-31',
    '9999',
    'me',
    'today',
  ],
  ...[
    "'; DROP TABLE item; --",
    '\u0000',
    '\u2028',
    '👩‍🔧',
    '/Supplier',
    'terms',
    'constructor',
    '__proto__',
    '*',
    '%',
  ],
];
const anyQuery = fc.oneof(
  fc.string({ unit: 'binary', maxLength: 40 }),
  fc.array(fc.constantFrom(...PIECES), { maxLength: 14 }).map((pieces) => pieces.join(' ')),
  fc.array(fc.constantFrom(...PIECES), { maxLength: 14 }).map((pieces) => pieces.join('')),
);

describe('any text', () => {
  it('is a query or has a problem that lies in it', () => {
    fc.assert(
      fc.property(anyQuery, (text) => {
        const parsed = parseQuery(text, WORDS);
        if (parsed.kind === 'query') return;
        const { from, to, says } = parsed.problem;
        expect(from).toBeGreaterThanOrEqual(0);
        expect(to).toBeLessThanOrEqual(text.length);
        expect(from).toBeLessThanOrEqual(to);
        expect(says).not.toBe('');
      }),
      { numRuns: 100_000 },
    );
  });

  it('can be completed anywhere, and what is offered leaves no mistake behind', () => {
    fc.assert(
      fc.property(anyQuery, fc.nat(40), (text, at) => {
        const caret = Math.min(at, text.length);
        const kept = parseQuery(text.slice(0, caret), WORDS);
        for (const { from, to, text: offer } of completeQuery(text, caret, WORDS)) {
          expect(to).toBe(caret);
          const whole = text.slice(0, from) + offer;
          const parsed = parseQuery(whole, WORDS);
          // A problem may stand before already; a new one can only be that something is missing at the end.
          if (kept.kind === 'query' && parsed.kind === 'problem')
            expect(parsed.problem.to).toBeGreaterThanOrEqual(whole.length - offer.length);
        }
      }),
      { numRuns: 5000 },
    );
  });
});

describe('completion', () => {
  const offers = (text: string): string[] =>
    completeQuery(text, text.length, WORDS).map((completion) => completion.text);

  it('knows names, signs and values', () => {
    expect(offers('wal')).toEqual(['"wall thickness"']);
    expect(offers('sta')).toContain('state');
    expect(offers('state ')).toEqual(['=', '≠']);
    expect(offers('state = ')).toContain('in check');
    expect(offers('state = draft, ')).toContain('released');
    expect(offers('mass ')).toContain('≥');
    expect(offers('mass = ')).toEqual(['8 kg..12 kg']);
    expect(offers('held by ')).toEqual(['me', 'ada', 'ben']);
    expect(offers('in /Fr')).toEqual(['/Frames']);
    expect(offers('in "/Sup')).toEqual(['"/Supplier terms/Old"', '"/Supplier terms"']);
    expect(offers('without ')).toContain('drawing');
    expect(offers('changed = ')).toContain('last 30 days');
    expect(offers('bracket o')).toContain('or');
    expect(offers('')).toEqual([]);
  });

  it('says what it replaces', () => {
    expect(completeQuery('bolt sta', 8, WORDS)[0]).toMatchObject({ text: 'state', from: 5, to: 8 });
  });
});

it('takes a value with quotes and commas, as it is written and as it is completed', () => {
  for (const number of ['3/8" tube', 'A, B and C', '"', '""', 'a "b" c', 'x,', '1,5']) {
    expect(JSON.stringify(parseQuery(`number = ${quoted(number)}`, WORDS))).toContain(
      JSON.stringify({ text: number }).slice(1, -1),
    );
  }
});
