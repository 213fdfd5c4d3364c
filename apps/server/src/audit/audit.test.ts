import type { AuditAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
let administrator: string;

beforeAll(async () => {
  store = await TestStore.open();
  administrator = await store.tokenFor('dora', 'administrator');
  await store.intake(readExchangeSet('s1_pe_214'));
  await store.derive({ item: 'TAIL_ASM', prefix: 'V-' });
  await store.fetch('V-TAIL_ASM');
  await store.json('POST', '/api/holds', { items: ['HEAD_ASM'], reason: '=1+1, "quoted"' });
});
afterAll(() => store.close());

const trail = async (query = ''): Promise<AuditAnswer> =>
  (await (
    await store.call('GET', `/api/audit?${query}`, undefined, { Authorization: `Bearer ${administrator}` })
  ).json()) as AuditAnswer;
const kinds = async (query = ''): Promise<string[]> => (await trail(query)).rows.map(({ kind }) => kind);

describe('the audit trail', () => {
  it('is for administrators', async () => {
    for (const path of ['/api/audit', '/api/audit.csv'])
      await expect(store.call('GET', path)).rejects.toMatchObject({ status: 403 });
  });

  it('holds intakes, derivations, what was handed out, and holds, newest first', async () => {
    expect((await trail()).rows.map(({ kind, number, says }) => [kind, number, says])).toEqual([
      ['check out', 'HEAD_ASM', expect.stringContaining('ada') as string],
      ['fetch', 'V-TAIL_ASM', 'ada fetched V-TAIL_ASM A/1, 3 files'],
      // Everything that came of it has a trail that begins with it.
      ['derive', 'V-TAIL_TURBINE', 'ada derived V-TAIL_TURBINE from TAIL_TURBINE, with V-TAIL_ASM'],
      [
        'derive',
        'V-TAIL_MIDDLE_PART',
        'ada derived V-TAIL_MIDDLE_PART from TAIL_MIDDLE_PART, with V-TAIL_ASM',
      ],
      ['derive', 'V-TAIL_ASM', 'ada derived V-TAIL_ASM from TAIL_ASM A/1'],
      ['derive', 'TAIL_ASM', 'ada derived V-TAIL_ASM from TAIL_ASM A/1'],
      ['intake', null, 'ada brought in 13 items'],
    ]);
  });

  it('is filtered by item, person, kind and day, and read page by page', async () => {
    const today = new Date().toISOString().slice(0, 10);
    expect(await kinds('item=tail_asm')).toEqual(['derive']);
    expect(await kinds('kind=fetch')).toEqual(['fetch']);
    expect(await kinds('person=dora')).toEqual([]);
    expect(await kinds('person=ada')).toHaveLength(7);
    expect(await kinds('until=2020-01-01')).toEqual([]);
    expect(await kinds(`since=2020-01-01&until=${today}`)).toHaveLength(7);

    const first = await trail('limit=4');
    expect(first.more).toBe(true);
    const rest = await trail(`limit=4&before=${first.rows[3]?.id}`);
    expect([...first.rows, ...rest.rows]).toEqual((await trail()).rows);
    expect(rest.more).toBe(false);
  });

  it.each(['kind=dance', 'since=yesterday', 'since=2026-02-31', 'before=x', 'limit=0'])(
    'refuses %s',
    async (query) => {
      await expect(trail(query)).rejects.toMatchObject({ status: 400, problem: { code: 'INPUT_INVALID' } });
    },
  );

  it('goes out as CSV, with nothing that a spreadsheet would take for a formula', async () => {
    await store.database.query(
      `INSERT INTO event (person_id, kind, detail) SELECT id, 'place', '{"says": "=1+1, \\"quoted\\""}' FROM person WHERE login = 'ada'`,
    );
    const response = await store.call('GET', '/api/audit.csv?person=ada', undefined, {
      Authorization: `Bearer ${administrator}`,
    });
    expect(response.headers.get('content-type')).toMatch(/^text\/csv/);
    const lines = (await response.text()).split('\r\n');
    expect(lines[0]).toBe('at,person,kind,number,says');
    expect(lines[1]).toMatch(/^\d{4}-\d\d-\d\dT[\d:.]+Z,ada,place,,"'=1\+1, ""quoted"""$/);
    expect(lines).toHaveLength(8 + 1 + 1);
  });
});
