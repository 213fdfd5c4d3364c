// @vitest-environment happy-dom
import type { AuditAnswer, EntryRow, JobView, PersonRow } from '@stem-trace/contract';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { ENGINEER, show, type Answers } from '../../testing/show.js';
import { NoticeWays } from './notice-ways.js';
import { WebhooksSection } from './webhooks-section.js';
import { SettingsScreen } from './settings-screen.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const ADMINISTRATOR = { ...ENGINEER, login: 'root', name: 'Root', role: 'administrator' } as const;

function open(
  section: string,
  answers: Answers,
  person = ENGINEER as typeof ENGINEER,
): ReturnType<typeof show> {
  return show(
    <Routes>
      <Route path="/settings/:section?" element={<SettingsScreen />} />
    </Routes>,
    { address: `/settings/${section}`, answers, person },
  );
}

const ENTRY: EntryRow = {
  ...{ id: '1', login: 'ines', kind: 'session', name: 'Browser', scope: 'all', isThis: true },
  ...{ since: '2026-03-02T08:00:00.000Z', usedAt: null, expiresAt: null },
};

describe('settings', () => {
  it('has for oneself what is one’s own, and for administrators the rest', async () => {
    const { address } = open('people', { '/api/entries': [ENTRY] });
    expect(address()).toBe('/settings/you');
    expect(screen.getAllByRole('link').map(({ textContent }) => textContent)).toEqual([
      'You',
      'My sessions and tokens',
      'Background work',
      'Lifecycles',
    ]);
    cleanup();
    open('people', { '/api/people': [] }, ADMINISTRATOR);
    expect(await screen.findByRole('link', { name: 'Audit trail' })).toBeDefined();
    expect(screen.getByRole('grid', { name: 'People' })).toBeDefined();
  });

  it('makes a token for a program and shows it this once', async () => {
    const { user, sentTo } = open('access', {
      '/api/entries': [ENTRY, { ...ENTRY, id: '2', name: 'Nightly', kind: 'program', isThis: false }],
      '/api/tokens': { token: 'st_secret' },
      '/api/entries/2': new Response(null, { status: 204 }),
    });
    // The session that one is in is not ended from here.
    expect((await screen.findByRole('button', { name: /End ‘Browser’/ })).hasAttribute('disabled')).toBe(
      true,
    );
    await user.click(screen.getByText('Nightly'));
    await user.click(screen.getByRole('button', { name: /End ‘Nightly’/ }));
    expect(sentTo('/api/entries/2')[0]?.method).toBe('DELETE');
    await user.click(screen.getByRole('button', { name: /New token/ }));
    await user.type(screen.getByRole('textbox', { name: 'What it is for' }), 'reports');
    await user.click(screen.getByRole('button', { name: 'Make it' }));
    expect(await screen.findByText('st_secret')).toBeDefined();
    expect(sentTo('/api/tokens')[0]?.body).toEqual({ name: 'reports', scope: 'read', days: 90 });
  });

  it('lets a person in no more, and says why that cannot be', async () => {
    const people: PersonRow[] = [
      { login: 'ines', name: 'Ines', initials: 'IH', role: 'engineer', isActive: true },
      { login: 'ben', name: 'Ben', initials: 'BB', role: 'checker', isActive: false },
    ];
    const problem = { code: 'INPUT_INVALID', detail: 'Somebody has to administer the store.' };
    const { user, sentTo } = open(
      'people',
      {
        '/api/people': ({ method }: { method: string }) =>
          method === 'GET' ? people : Response.json(problem, { status: 400 }),
      },
      ADMINISTRATOR,
    );
    await user.click(await screen.findByText('Ines'));
    await user.click(screen.getByRole('button', { name: 'Block sign-in' }));
    expect(sentTo('/api/people').find(({ method }) => method === 'PATCH')?.body).toEqual({
      login: 'ines',
      isActive: false,
    });
    expect(await screen.findByText(problem.detail)).toBeDefined();
    await user.click(screen.getByText('Ben'));
    expect(screen.getByRole('button', { name: 'Allow sign-in' })).toBeDefined();
  });

  it('makes properties and classes from what is typed', async () => {
    const { user, sentTo } = open(
      'properties',
      {
        '/api/properties': {
          definitions: [{ name: 'mass', kind: 'number', unit: 'kg', choices: [] }],
          classes: [],
        },
        '/api/properties/class': { definitions: [], classes: [] },
      },
      ADMINISTRATOR,
    );
    await user.click(await screen.findByRole('button', { name: 'New class …' }));
    await user.type(screen.getByRole('textbox', { name: 'Name' }), 'Tube');
    await user.type(screen.getByRole('textbox', { name: /Properties with commas/ }), 'mass*, , length');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect(sentTo('/api/properties/class')[0]?.body).toEqual({
      name: 'Tube',
      properties: [
        { name: 'mass', isRequired: true },
        { name: 'length', isRequired: false },
      ],
    });
  });

  it('looks through the trail by what is in the address', async () => {
    const trail: AuditAnswer = {
      rows: [
        {
          ...{ id: '9', at: '2026-03-02T08:00:00.000Z', person: 'Ines', kind: 'sign in' },
          ...{ number: null, says: 'Ines signed in', detail: null },
        } as unknown as AuditAnswer['rows'][number],
      ],
      more: false,
    };
    const ines = { login: 'ines', name: 'Ines', initials: 'IH', role: 'engineer', isActive: true };
    const answers = { '/api/audit': trail, '/api/people': [ines] };
    const { user, address, sentTo } = open('audit?kind=sign%20in', answers, ADMINISTRATOR);
    expect(await screen.findByText('Ines signed in')).toBeDefined();
    expect(sentTo('/api/audit')[0]?.search.get('kind')).toBe('sign in');
    await user.selectOptions(screen.getByRole('combobox', { name: 'Person' }), 'ines');
    expect(address()).toContain('person=ines');
    expect(screen.getByRole('link', { name: /As CSV/ }).getAttribute('href')).toContain('person=ines');
  });
});

describe('background work', () => {
  function job(id: string, more: Partial<JobView>): JobView {
    return {
      ...{ kind: 'proof', id, about: `Proof of ${id}`, by: 'Ines', state: 'running', tries: 1 },
      ...{
        progress: { done: 3, total: 9 },
        askedAt: '2026-03-02T08:00:00.000Z',
        endedAt: null,
        failure: null,
      },
      ...more,
    };
  }

  it('is ended where it goes on, and done again where it failed', async () => {
    const { user, sentTo } = open('jobs', {
      '/api/jobs': [
        job('V-1', {}),
        job('V-2', { state: 'failed', failure: 'Too much.' }),
        job('likeness', { kind: 'likeness', about: 'Shapes of parts', by: null, state: 'done', tries: 2 }),
      ],
      '/api/jobs/cancel': new Response(null, { status: 204 }),
      '/api/jobs/retry': new Response(null, { status: 204 }),
    });
    const grid = await screen.findByRole('grid', { name: 'Background work' });
    expect(await within(grid).findAllByText('3 of 9')).toHaveLength(3);
    expect(within(grid).getByText('the store itself')).toBeDefined();
    expect(within(grid).getByText('started 2 times')).toBeDefined();
    await user.click(screen.getByRole('button', { name: 'End it' }));
    expect(sentTo('/api/jobs/cancel')[0]?.body).toEqual({ kind: 'proof', id: 'V-1' });
    await user.click(screen.getByText('Too much.'));
    expect(screen.getByRole('button', { name: 'End it' }).hasAttribute('disabled')).toBe(true);
    await user.click(screen.getByRole('button', { name: 'Try again' }));
    expect(sentTo('/api/jobs/retry')[0]?.body).toEqual({ kind: 'proof', id: 'V-2' });
  });

  it('says when there is none', async () => {
    open('jobs', { '/api/jobs': [] });
    expect(await screen.findByText(/Nothing is being done/)).toBeDefined();
  });
});

describe('what one is told', () => {
  const WAYS = {
    'to check': 'desk',
    decided: 'desk',
    given: 'desk',
    asked: 'desk',
    watched: 'desk',
    searches: 'desk',
  };

  it('goes by mail once there is an address, as one says of each kind', async () => {
    const { user, sentTo } = show(<NoticeWays />, {
      answers: {
        '/api/notices/ways': (sent: { method: string; body: unknown }) =>
          sent.method === 'GET'
            ? { mail: '', ways: WAYS, isSent: true, problem: 'connect ECONNREFUSED' }
            : { ...(sent.body as object), isSent: true, problem: null },
      },
    });
    expect(await screen.findByText(/The last mail was not taken/)).toBeDefined();
    const check = screen.getByRole('radiogroup', { name: 'Something waits for my decision' });
    expect(within(check).getByRole<HTMLButtonElement>('radio', { name: 'Mail at once' }).disabled).toBe(true);
    await user.type(screen.getByLabelText('My mail address'), 'ines@store.example');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(screen.queryByText(/was not taken/)).toBeNull());
    await user.click(
      within(screen.getByRole('radiogroup', { name: 'Something waits for my decision' })).getByText(
        'Mail at once',
      ),
    );
    const puts = sentTo('/api/notices/ways').filter(({ method }) => method === 'PUT');
    expect(puts.map(({ body }) => body)).toEqual([
      { mail: 'ines@store.example', ways: WAYS },
      { mail: 'ines@store.example', ways: { ...WAYS, 'to check': 'at once' } },
    ]);
  });
});

describe('webhooks', () => {
  it('are made with what they are told of, say their secret once, and are tried', async () => {
    const hook = {
      id: '3',
      name: 'Planning',
      address: 'https://plan.example/',
      kinds: ['step'],
      waiting: 0,
      givenUp: 0,
      problem: null,
    };
    const rows: object[] = [];
    const delivery = {
      id: '9',
      kind: 'test',
      at: '2026-11-25T08:00:00.000Z',
      says: 'A test of this webhook',
      tries: 1,
    };
    const { user, sentTo } = show(<WebhooksSection />, {
      answers: {
        '/api/webhooks': (sent: { method: string }) => {
          if (sent.method === 'GET') return rows;
          rows.push(hook);
          return { rows, secret: 's3cret' };
        },
        '/api/webhooks/3/log': [],
        '/api/webhooks/test': { ...delivery, sentAt: null, isGivenUp: true, problem: 'It answered 404' },
      },
    });
    await user.click(await screen.findByRole('button', { name: 'New webhook …' }));
    await user.type(screen.getByLabelText('Name'), 'Planning');
    await user.type(screen.getByLabelText('Address'), 'https://plan.example/');
    await user.click(within(screen.getByRole('group', { name: 'Told of' })).getByText('check in'));
    await user.click(screen.getByRole('button', { name: 'Make it' }));
    expect(await screen.findByText('s3cret')).toBeDefined();
    expect(sentTo('/api/webhooks').at(-1)?.body).toEqual({
      ...{ name: 'Planning', address: 'https://plan.example/', kinds: ['check in', 'step'] },
    });
    await user.click(screen.getByRole('button', { name: 'I have kept it' }));
    await user.click(await screen.findByRole('button', { name: 'Send a test' }));
    expect(await screen.findByText('The test was not taken: It answered 404')).toBeDefined();
  });
});
