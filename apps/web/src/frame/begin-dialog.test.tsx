// @vitest-environment happy-dom
import { cleanup, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { show } from '../testing/show.js';
import { BeginDialog } from './begin-dialog.js';

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

const NONE = { total: 0, hidden: 0, near: [], rows: [] };

it('begins with a template, brings the files, and shows what was begun', async () => {
  const click = vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(() => undefined);
  const close = vi.fn();
  const { user, sentTo, address } = show(<BeginDialog onClose={close} />, {
    answers: {
      '/api/items': {
        ...NONE,
        total: 2,
        rows: [
          { number: 'T-1', name: 'Plate', kind: 'part' },
          { number: 'T-2', name: 'Frame', kind: 'assembly' },
        ],
      },
      '/api/numbers': [{ name: 'parts', next: 'P-0007' }],
      '/api/places': [],
      '/api/begin': { number: 'P-0007', version: 'A/1', made: ['P-0007'] },
    },
  });
  await user.type(await screen.findByRole('textbox', { name: 'Name of what is begun' }), 'Left cheek');
  await user.selectOptions(screen.getByRole('combobox', { name: 'Template' }), 'T-2 Frame · assembly');
  await user.selectOptions(screen.getByRole('combobox', { name: 'Number' }), 'parts, next is P-0007');
  await user.click(screen.getByRole('button', { name: 'Begin' }));
  await vi.waitFor(() => expect(close).toHaveBeenCalled());
  expect(sentTo('/api/begin')[0]?.body).toEqual({
    item: 'T-2',
    name: 'Left cheek',
    scheme: 'parts',
    place: '',
  });
  expect((click.mock.contexts[0] as HTMLAnchorElement).href).toContain(
    '/api/fetch?item=P-0007&drawings=true',
  );
  await vi.waitFor(() => expect(address()).toContain('/trace?item=P-0007'));
});

it('says how something becomes a template where there is none', async () => {
  show(<BeginDialog onClose={() => undefined} />, { answers: { '/api/items': NONE, '/api/numbers': [] } });
  expect(await screen.findByText(/Nothing is a template yet/)).toBeDefined();
});
