/**
 * Walks every route as somebody who may not see one item in each relation to items that they do see, and looks for the number and the
 * name of the hidden ones in whatever comes back: JSON, tables, workbooks, archives, PDF. Hidden numbers and names hold a mark that
 * occurs nowhere in the files of visible items.
 */
import type { BuildAnswer, IntakeView, Problem, Role, Route, SheetRow } from '@stem-trace/contract';
import { ROUTES } from '@stem-trace/contract';
import { SHIPPED, type Diagram, type Grant } from '@stem-trace/core';
import { unzipSync } from 'fflate';
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { ABOUT_ITEM, OTHERS } from '../testing/route-samples.js';
import { Refused, TestStore } from '../testing/test-store.js';

const MARK = /.{0,60}(ZQ|\/secret).{0,40}/i;
const READERS = ['engineer', 'checker', 'viewer'] as const;

let store: TestStore;
const tokens = new Map<string, string>();

beforeAll(async () => {
  store = await TestStore.open();
  for (const role of ['administrator', ...READERS] as const)
    tokens.set(role, await store.tokenFor(`leak-${role}`, role));
  await makeStore();
}, 120_000);
afterAll(() => store.close());

interface Answered {
  readonly status: number;
  readonly bytes: Uint8Array;
}

async function as(who: string, method: string, path: string, body?: unknown): Promise<Answered> {
  try {
    const response = await store.call(method, path, body, { Authorization: `Bearer ${tokens.get(who)}` });
    return { status: response.status, bytes: new Uint8Array(await response.arrayBuffer()) };
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    return { status: error.status, bytes: new TextEncoder().encode(JSON.stringify(error.problem)) };
  }
}

async function admin<T>(method: string, path: string, body?: unknown): Promise<T> {
  const { status, bytes } = await as('administrator', method, path, body);
  const text = new TextDecoder().decode(bytes);
  if (status >= 400) throw new Error(`${method} ${path}: ${(JSON.parse(text) as Problem).detail}`);
  return (text === '' ? undefined : JSON.parse(text)) as T;
}

/** Brings files in as the administrator. */
async function intake(
  place: string,
  files: Readonly<Record<string, Uint8Array>>,
  prefix = '',
): Promise<void> {
  const { id } = await admin<IntakeView>('POST', '/api/intakes', { place, prefix });
  for (const [path, bytes] of Object.entries(files))
    await admin('PUT', `/api/intakes/${id}/files?path=${path}`, bytes);
  let view = await admin<IntakeView>('POST', `/api/intakes/${id}/carry-out`, { comment: '' });
  while (view.state === 'carrying out') view = await admin<IntakeView>('GET', `/api/intakes/${id}`);
  if (view.state !== 'done') throw new Error(`the intake is ${view.state}: ${view.failure}`);
}

const part = (id: string): Uint8Array => stepFile({ id });
const assembly = (id: string, ...uses: string[]): Uint8Array =>
  stepFile({
    id,
    uses: uses.map((locator) => ({
      id: locator.replace(/.*\//, '').replace('.stp', '').toUpperCase(),
      locator,
    })),
  });

const HIDDEN = ['CHILD', 'ALT', 'DRAWN', 'ORIGIN', 'OLD-CHILD', 'R-CHILD', 'MOVED'] as const;
const contents = (more: object): object => ({
  ...{ why: 'It rattles', urgency: 'soon', owner: '', until: '', takesEffect: { kind: 'when released' } },
  ...{ lines: [], evidence: [], tasks: [], costs: [], currency: '' },
  ...more,
});
const line = (relation: string, item: string): object => ({
  relation,
  item,
  note: '',
  inStock: '',
  inWork: '',
});

/** Each visible item is named for the relation in which it is to something hidden. */
async function makeStore(): Promise<void> {
  await intake(
    '/open',
    {
      ...Object.fromEntries(HIDDEN.map((id) => [`${id.toLowerCase()}.stp`, part(id)])),
      'frame.dxf': dxf({ fields: { DRAWING_NO: 'FRAME' } }),
    },
    'ZQ-',
  );
  await intake('/open', {
    'lid.stp': part('LID'),
    'top.stp': assembly('TOP', 'lid.stp', 'child.stp'),
    'old.stp': assembly('OLD', 'old-child.stp'),
    'r-lid.stp': part('R-LID'),
    'r-top.stp': assembly('R-TOP', 'r-lid.stp', 'r-child.stp'),
    'sheet.dxf': dxf({ fields: { DRAWING_NO: 'SHEET' }, attached: { F: 'frame.dxf' } }),
    'shown.dxf': dxf({ fields: { DRAWING_NO: 'SHOWN' } }),
    'carrier.stp': stepFile({ id: 'CARRIER', uses: [{ id: 'CARRIED' }] }),
    'held.stp': part('HELD'),
    'made.stp': part('MADE'),
  });
  await intake('/secret', { 'user.stp': assembly('USER', '../open/lid.stp') }, 'ZQ-');
  const moved = [...HIDDEN, 'FRAME'].map((id) => `ZQ-${id}`);
  await admin('POST', '/api/items/move', { items: [...moved, 'CARRIER'], place: '/secret' });
  await admin('POST', '/api/items/rename', { item: 'CARRIER', name: 'ZQ carrier' });
  for (const item of [...HIDDEN, 'USER', 'FRAME'])
    await admin('POST', '/api/items/rename', { item: `ZQ-${item}`, name: `ZQ name of ${item}` });
  await admin('POST', '/api/holds', { items: ['SHOWN'], reason: '' });
  await admin('POST', '/api/items/belong', { item: 'SHOWN', model: 'ZQ-DRAWN' });
  await admin('POST', '/api/holds/let-go', { items: ['SHOWN'] });
  await admin('PUT', '/api/alternates', { item: 'LID', other: 'ZQ-ALT', note: 'ZQ note' });
  await admin('POST', '/api/alternates/approve', { item: 'LID', other: 'ZQ-ALT' });
  for (const role of READERS)
    if (role !== 'viewer')
      for (const item of ['TOP', 'LID', 'R-TOP', 'HELD', 'MADE', 'OLD'])
        await as(role, 'POST', '/api/watch', { item, watch: true });
  // What was used once and is not any more.
  await admin('POST', '/api/holds', { items: ['OLD'], reason: '' });
  await intake('/open', { 'old.stp': assembly('OLD', 'lid.stp') });
  // Derived both ways.
  const named = { 'ZQ-ORIGIN': { number: 'V-ORIGIN', name: 'Variant' } };
  await admin('POST', '/api/derive', { item: 'ZQ-ORIGIN', copy: 'all', renamed: named, place: '/open' });
  await admin('POST', '/api/derive', { item: 'LID', copy: 'all', prefix: 'ZQ-', place: '/secret' });
  // A hidden order that has one item checked out and has made a version of another, and one that everybody sees about hidden ones.
  await admin('POST', '/api/changes', {
    ...{ kind: 'request', number: 'ZQ-CR', name: 'ZQ request', place: '/secret' },
    contents: contents({ lines: [line('shows in', 'LID')] }),
  });
  await admin('POST', '/api/changes', {
    ...{ kind: 'order', number: 'ZQ-CO', name: 'ZQ order', place: '/secret' },
    contents: contents({ lines: [line('affects', 'LID'), line('affects', 'HELD'), line('affects', 'MADE')] }),
  });
  await admin('POST', '/api/holds', { items: ['HELD', 'MADE'], reason: 'x', change: 'ZQ-CO' });
  await admin('POST', '/api/items/properties', { items: ['MADE'], set: { note: 'a' }, comment: '' });
  await admin('POST', '/api/changes', {
    ...{ kind: 'order', number: 'OPEN-CO', name: 'Open order', place: '/open' },
    contents: contents({
      lines: [line('affects', 'ZQ-CHILD'), line('affects', 'LID')],
      takesEffect: { kind: 'from serial', product: 'ZQ-CHILD', serial: '7' },
    }),
  });
  await admin('POST', '/api/holds', { items: ['ZQ-MOVED'], reason: 'x', change: 'OPEN-CO' });
  await admin('POST', '/api/items/properties', { items: ['ZQ-MOVED'], set: { note: 'a' }, comment: '' });
  await admin('POST', '/api/holds/let-go', { items: ['ZQ-MOVED'] });
  // MBOMs: one that everybody sees with a hidden row, a hidden one of what everybody sees.
  await admin('POST', '/api/bills', {
    item: 'TOP',
    number: 'OPEN-BILL',
    name: 'Bill',
    place: '/open',
    lens: 'newest',
  });
  await admin('POST', '/api/bills', {
    item: 'TOP',
    number: 'ZQ-BILL',
    name: 'ZQ bill',
    place: '/secret',
    lens: 'newest',
  });
  const { bill } = await admin<BuildAnswer>('GET', '/api/build?bill=OPEN-BILL');
  expect(JSON.stringify(bill)).toContain('ZQ-CHILD');
  // Released with a baseline; and a check sheet with a hidden item that waits.
  for (const step of ['ask for check', 'release'])
    await admin('POST', '/api/steps', { items: ['R-TOP'], step, reason: 'Series', below: true });
  await admin('POST', '/api/steps', { items: ['TOP', 'ZQ-ALT'], step: 'ask for check', reason: '' });
  const lifecycle: Diagram = { ...SHIPPED, name: 'Of one place' };
  const scopes = [{ kind: null, class: null, place: '/secret' }];
  await admin('POST', '/api/lifecycles', { id: '', diagram: lifecycle, scopes, comment: '' });
  for (const [place, grants] of [
    ['/secret', []],
    ['/open', READERS.map((role): Grant => ({ to: { kind: 'role', role }, rights: RIGHTS[role] }))],
  ] as const)
    await admin('PUT', '/api/places/access', { place, inherits: false, grants });
}

const RIGHTS: Readonly<Record<(typeof READERS)[number], Grant['rights']>> = {
  engineer: ['see', 'fetch', 'change'],
  checker: ['see', 'fetch', 'change', 'release'],
  viewer: ['see', 'fetch'],
};

const VISIBLE = [
  'TOP',
  'LID',
  'OLD',
  'OLD@A/1',
  'R-TOP',
  'SHEET',
  'SHOWN',
  'CARRIED',
  'HELD',
  'MADE',
  'V-ORIGIN',
];
const MORE = ['OPEN-CO', 'OPEN-BILL'];

/** All that somebody reads in an answer, unpacked. */
async function wordsIn(bytes: Uint8Array): Promise<string> {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 5));
  if (head.startsWith('PK')) {
    const texts = await Promise.all(Object.values(unzipSync(bytes)).map(wordsIn));
    return [...Object.keys(unzipSync(bytes)), ...texts].join('\n');
  }
  if (head === '%PDF-') {
    const pdf = await getDocument({ data: bytes.slice(), verbosity: 0 }).promise;
    const pages = await Promise.all(
      Array.from({ length: pdf.numPages }, async (_, at) => (await pdf.getPage(at + 1)).getTextContent()),
    );
    return pages.flatMap(({ items }) => items.map((item) => ('str' in item ? item.str : ''))).join(' ');
  }
  return new TextDecoder('latin1').decode(bytes);
}

/** Requests that mention nothing hidden. */
function requestsOf(route: Route): { readonly path: string; readonly body?: unknown }[] {
  const [, path = ''] = route.split(' ');
  const fill = (address: string, query?: string): string =>
    `${address.replace(/:\w+/g, '1')}${query === undefined ? '' : `?${query}`}`;
  const sample = ABOUT_ITEM[route];
  const samples = sample
    ? [...VISIBLE, ...MORE].map((item) => sample(item === 'SEEN' ? 'LID' : item))
    : [OTHERS[route] ?? {}];
  return samples.map((each) => {
    const { query, body } = JSON.parse(JSON.stringify(each).replaceAll('SEEN', 'LID')) as typeof each;
    const sent = each.body instanceof Uint8Array ? each.body : body;
    return { path: fill(path, query), ...(sent === undefined ? {} : { body: sent }) };
  });
}

async function leaksOf(role: Role, route: Route): Promise<string[]> {
  const [method = 'GET'] = route.split(' ');
  const leaks: string[] = [];
  for (const { path, body } of requestsOf(route)) {
    const { status, bytes } = await as(role, method, path, body);
    if (status >= 500) leaks.push(`${role} ${method} ${path}: ${status}`);
    const found = MARK.exec(await wordsIn(bytes));
    if (found) leaks.push(`${role} ${method} ${path} ${JSON.stringify(body ?? '')}: ${status} … ${found[0]}`);
  }
  return leaks;
}

const ALL = Object.keys(ROUTES) as Route[];
/** Streams without end, and what ends the session that walks. */
const NOT_WALKED: ReadonlySet<Route> = new Set(['GET /api/feed', 'POST /api/session', 'DELETE /api/session']);
const isAsking = (route: Route): boolean =>
  route.startsWith('GET ') || route.endsWith('/preview') || ROUTES[route].isQuestion === true;

describe('what may not be seen is named nowhere', () => {
  it.each(ALL.filter((route) => isAsking(route) && !NOT_WALKED.has(route)))('by %s', async (route) => {
    const leaks: string[] = [];
    for (const role of ['engineer', 'viewer'] as const) leaks.push(...(await leaksOf(role, route)));
    expect(leaks).toEqual([]);
  });

  it('under any lens, in any format', async () => {
    const leaks: string[] = [];
    for (const item of [...VISIBLE, ...MORE])
      for (const lens of ['recorded', 'released', 'effective 2030-01-01'])
        for (const path of [
          ...['made', 'used', 'bill', 'scene'].map((name) => `/api/${name}?item=${item}&all=true`),
          ...['csv', 'xlsx', 'xml'].map((format) => `/api/bill/file?item=${item}&format=${format}`),
          `/api/fetch/plan?item=${item}`,
          `/api/fetch?item=${item}&drawings=true`,
        ]) {
          const { bytes } = await as('checker', 'GET', `${path}&lens=${encodeURIComponent(lens)}`);
          const found = MARK.exec(await wordsIn(bytes));
          if (found) leaks.push(`${path} ${lens}: ${found[0]}`);
        }
    expect(leaks).toEqual([]);
  }, 180_000);

  it('on the check sheets, notices, history and exports of items', async () => {
    const sheets = JSON.parse(
      new TextDecoder().decode((await as('checker', 'GET', '/api/sheets')).bytes),
    ) as SheetRow[];
    expect(sheets.length).toBeGreaterThan(0);
    const leaks: string[] = [];
    for (const { id } of sheets)
      for (const path of [`/api/sheets/${id}`, `/api/record/sheet?id=${id}`]) {
        const found = MARK.exec(await wordsIn((await as('checker', 'GET', path)).bytes));
        if (found) leaks.push(`${path}: ${found[0]}`);
      }
    expect(leaks).toEqual([]);
  });

  it.each(ALL.filter((route) => !isAsking(route) && !NOT_WALKED.has(route)))(
    'by what %s answers',
    async (route) => {
      const leaks: string[] = [];
      for (const role of ['checker'] as const) leaks.push(...(await leaksOf(role, route)));
      expect(leaks).toEqual([]);
    },
  );

  it('nor afterwards, in what people are told of all that', async () => {
    const leaks: string[] = [];
    for (const role of READERS)
      for (const path of [
        '/api/notices',
        '/api/tasks',
        '/api/checks',
        '/api/holds',
        '/api/jobs',
        '/api/sheets',
      ])
        leaks.push(
          ...(MARK.exec(await wordsIn((await as(role, 'GET', path)).bytes)) ?? []).map(
            (text) => `${path} ${text}`,
          ),
        );
    for (const item of VISIBLE) leaks.push(...(MARK.exec(await wordsIn((await as('checker', 'GET', `/api/history?item=${item}&below=true`)).bytes)) ?? []).map((text) => `history of ${item} ${text}`)); // prettier-ignore
    expect(leaks).toEqual([]);
  });
});
