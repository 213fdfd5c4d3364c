// @vitest-environment happy-dom
import { cleanup, screen, within } from '@testing-library/react';
import { useMemo, useRef, type ReactNode } from 'react';
import { afterEach, expect, it, vi } from 'vitest';
import { show, type Shown } from '../testing/show.js';
import { FindBox } from './find-box.js';
import { useScreenCommands } from './screen-commands.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function Box(): React.JSX.Element {
  return <FindBox box={useRef<HTMLInputElement>(null)} onBegin={() => undefined} />;
}

function box(address = '/find', beside: ReactNode = null): Shown {
  const shown = (
    <>
      <Box />
      {beside}
    </>
  );
  return show(shown, {
    address,
    answers: {
      '/api/find/words': {
        properties: [{ name: 'mass', kind: 'number', unit: 'kg', choices: [] }],
        classes: [],
        people: [],
        places: [],
        me: 'ines',
        today: '2026-03-31',
      },
      '/api/items': { rows: [{ number: 'FM-9002', name: 'Bolt M8' }], total: 1, alike: [] },
    },
  });
}

const input = (): HTMLElement => screen.getByRole('combobox', { name: 'Find items or commands' });

it('finds what was typed on Enter, and shows the words of the search that is open', async () => {
  const { user, address } = box('/find?words=bracket');
  expect((input() as HTMLInputElement).value).toBe('bracket');
  await user.clear(input());
  await user.type(input(), 'mass > 2 kg{Enter}');
  expect(new URL(address(), 'http://here').searchParams.get('words')).toBe('mass > 2 kg');
});

it('completes names of the language and of properties, and goes on from there', async () => {
  const { user } = box();
  await user.type(input(), 'ma');
  const list = await screen.findByRole('listbox');
  const option = await within(list).findByRole('option', { name: /^mass/ });
  await user.click(option);
  expect((input() as HTMLInputElement).value).toMatch(/^mass/);
});

it('offers items, which open in Trace', async () => {
  const { user, address } = box('/compare');
  await user.type(input(), 'bolt');
  await user.click(await screen.findByRole('option', { name: /FM-9002/ }));
  expect(address()).toBe('/trace?item=FM-9002');
  expect((input() as HTMLInputElement).value).toBe('');
});

function Screen({ onRun }: { readonly onRun: () => void }): null {
  const commands = useMemo(() => [{ title: 'Look from above', run: onRun }], [onRun]);
  useScreenCommands(commands);
  return null;
}

it('offers what the screen that is shown can do', async () => {
  const run = vi.fn();
  const { user, address } = box('/look', <Screen onRun={run} />);
  await user.type(input(), 'from above');
  await user.click(await screen.findByRole('option', { name: /Look from above/ }));
  expect(run).toHaveBeenCalledOnce();
  expect(address()).toBe('/look');
});

it('offers commands by their words', async () => {
  const { user, address } = box();
  await user.type(input(), 'bring in');
  await user.click(await screen.findByRole('option', { name: /Bring in files/ }));
  expect(address()).toBe('/intake');
});
