// @vitest-environment happy-dom
import { act, cleanup, renderHook } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { DeskProvider, useDesk } from './desk.js';

beforeEach(() => sessionStorage.clear());
afterEach(cleanup);

const desk = () => renderHook(() => useDesk(), { wrapper: DeskProvider });
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
