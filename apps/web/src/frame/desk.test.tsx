// @vitest-environment happy-dom
import { act, cleanup, renderHook } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ReactNode } from 'react';
import { ENGINEER } from '../testing/show.js';
import { DeskProvider, useDesk } from './desk.js';
import { PersonContext } from './person.js';

beforeEach(() => sessionStorage.clear());
afterEach(cleanup);

function Around({ children }: { readonly children: ReactNode }): React.JSX.Element {
  return (
    <PersonContext value={ENGINEER}>
      <DeskProvider>{children}</DeskProvider>
    </PersonContext>
  );
}

const desk = () => renderHook(() => useDesk(), { wrapper: Around });
const item = (number: string) => ({ number, name: `Name of ${number}` });

describe('the tray', () => {
  it('takes items and gives them back, also when it goes fast', () => {
    const { result } = desk();
    act(() => {
      result.current.toggleInTray(item('A'));
      result.current.toggleInTray(item('B'));
      result.current.toggleInTray(item('A'));
    });
    expect(result.current.tray).toEqual([item('B')]);
    expect([result.current.isInTray('A'), result.current.isInTray('B')]).toEqual([false, true]);
  });

  it('is kept while the page is loaded again', () => {
    const first = desk();
    act(() => first.result.current.toggleInTray(item('A')));
    first.unmount();
    expect(desk().result.current.tray).toEqual([item('A')]);
  });

  it('is empty where what was kept is no tray', () => {
    sessionStorage.setItem('stem-trace.tray', '{"not": "a list"}');
    expect(desk().result.current.tray).toEqual([]);
    sessionStorage.setItem('stem-trace.tray', 'not JSON');
    expect(desk().result.current.tray).toEqual([]);
  });
});

describe('the cursor', () => {
  it('points at an item, or says something about what is none', () => {
    const { result } = desk();
    act(() => result.current.pointAt('FM-1@A/1'));
    expect([result.current.underCursor, result.current.note]).toEqual(['FM-1@A/1', undefined]);
    act(() => result.current.pointAt('', { title: 'FM-9', lines: ['a gap'] }));
    expect([result.current.underCursor, result.current.note?.title]).toEqual(['', 'FM-9']);
  });
});

it('a desk is needed', () => {
  expect(() => renderHook(() => useDesk())).toThrow(/DeskProvider/);
});

it('knows what was looked at last, the latest first and each once', () => {
  localStorage.clear();
  const { result } = desk();
  for (const number of ['FM-1', 'FM-2', 'FM-1']) act(() => result.current.noteLooked({ number, name: 'x' }));
  expect(result.current.looked.map(({ number }) => number)).toEqual(['FM-1', 'FM-2']);
  expect(desk().result.current.looked).toHaveLength(2);
  localStorage.setItem('stem-trace.looked.ines', '{"not":"a list"}');
  expect(desk().result.current.looked).toEqual([]);
});
