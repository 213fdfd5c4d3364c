// @vitest-environment happy-dom
import { act, cleanup, fireEvent, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';

import { afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { Grid, useGridCursor, type GridColumn, type GridProps } from './grid.js';

interface Part {
  readonly number: string;
  readonly depth: number;
}

const COLUMNS: readonly GridColumn<Part>[] = [
  { key: 'number', title: 'Number', width: '100px', sortable: true, cell: (part) => part.number },
  {
    key: 'edit',
    title: 'Note',
    width: '100px',
    cell: (part) => <input aria-label={`Note of ${part.number}`} />,
  },
];

const PARTS = Array.from({ length: 10_000 }, (_, index): Part => ({
  number: `P-${index}`,
  depth: 1 + (index % 3),
}));

/** The test page has no layout, so elements are given a size for the virtual list to fill. */
beforeAll(() => {
  for (const [name, size] of [
    ['offsetHeight', 400],
    ['offsetWidth', 800],
    ['clientHeight', 400],
  ] as const) {
    Object.defineProperty(HTMLElement.prototype, name, { configurable: true, get: () => size });
  }
  HTMLElement.prototype.scrollTo = function scrollTo(): void {
    // Nothing scrolls here.
  };
});
afterEach(cleanup);

function Sheet(props: Partial<GridProps<Part>> & { readonly parts?: readonly Part[] }): React.JSX.Element {
  const cursor = useGridCursor(props.parts ?? PARTS, ({ number }) => number);
  return <Grid label="Parts" columns={COLUMNS} cursor={cursor} takesFocus {...props} />;
}

/** Many rows, of which none has come yet. */
function Coming(): React.JSX.Element {
  const cursor = useGridCursor<Part>({ count: 1000, at: () => undefined }, ({ number }) => number);
  return <Grid label="Parts" columns={COLUMNS} cursor={cursor} />;
}

const underCursor = (): string => {
  const grid = screen.getByLabelText('Parts');
  return document.getElementById(grid.getAttribute('aria-activedescendant') ?? '')?.textContent ?? '';
};

describe('a grid of ten thousand rows', () => {
  it('has only those in sight in the page, and says how many there are', () => {
    render(<Sheet />);
    const grid = screen.getByRole('grid', { name: 'Parts' });
    expect(grid.getAttribute('aria-rowcount')).toBe('10001');
    expect(within(grid).getAllByRole('row').length).toBeLessThan(60);
    expect(document.activeElement).toBe(grid);
  });

  it('moves the cursor by keys and tells screen readers where it is', async () => {
    render(<Sheet />);
    const user = userEvent.setup();
    expect(underCursor()).toBe('P-0');
    await user.keyboard('{ArrowDown}{ArrowDown}');
    expect(underCursor()).toBe('P-2');
    await user.keyboard('{ArrowUp}{PageDown}');
    expect(underCursor()).toBe('P-11');
    await user.keyboard('{Home}');
    expect(underCursor()).toBe('P-0');
    await user.keyboard('{ArrowUp}');
    expect(underCursor()).toBe('P-0');
  });

  it('opens by Enter and double click, and picks by Space', async () => {
    const [onOpen, onPick] = [vi.fn(), vi.fn()];
    render(<Sheet onOpen={onOpen} onPick={onPick} isPicked={(part) => part.number === 'P-1'} />);
    const user = userEvent.setup();
    await user.keyboard('{ArrowDown}{Enter} ');
    expect(onOpen).toHaveBeenCalledExactlyOnceWith(PARTS[1]);
    expect(onPick).toHaveBeenCalledExactlyOnceWith(PARTS[1]);
    expect(screen.getByRole('row', { name: /^P-1( |$)/ }).getAttribute('aria-selected')).toBe('true');
    await user.dblClick(screen.getByRole('row', { name: /^P-3( |$)/ }));
    expect(onOpen).toHaveBeenLastCalledWith(PARTS[3]);
    expect(underCursor()).toBe('P-3');
  });

  it('leaves keys that are typed into a cell to the cell', async () => {
    const onPick = vi.fn();
    render(<Sheet onPick={onPick} />);
    const user = userEvent.setup();
    const note = screen.getByRole('textbox', { name: 'Note of P-2' });
    await user.type(note, 'a b{ArrowDown}');
    expect((note as HTMLInputElement).value).toBe('a b');
    expect(onPick).not.toHaveBeenCalled();
  });

  it('gives a place’s own keys the first say', async () => {
    const onKey = vi.fn((event: { key: string }) => event.key === 'c');
    const onPick = vi.fn();
    render(<Sheet onKey={onKey} onPick={onPick} />);
    await userEvent.setup().keyboard('c ');
    expect(onKey).toHaveBeenCalledTimes(2);
    expect(onPick).toHaveBeenCalledOnce();
  });

  it('says how it is sorted, and sorts by its heads', async () => {
    const onSort = vi.fn();
    render(<Sheet sort={{ key: 'number', order: 'down' }} onSort={onSort} />);
    expect(screen.getByRole('columnheader', { name: /Number/ }).getAttribute('aria-sort')).toBe('descending');
    expect(screen.getByRole('columnheader', { name: /Note/ }).hasAttribute('aria-sort')).toBe(false);
    await userEvent.setup().click(screen.getByRole('button', { name: /Number/ }));
    expect(onSort).toHaveBeenCalledExactlyOnceWith('number');
  });

  it('is a tree with levels where rows have a depth', () => {
    render(<Sheet levelOf={(part) => part.depth} />);
    expect(screen.getByRole('treegrid', { name: 'Parts' })).toBeDefined();
    expect(screen.getByRole('row', { name: /^P-2( |$)/ }).getAttribute('aria-level')).toBe('3');
  });

  it('draws a row anew only when something about it changes', async () => {
    const cell = vi.fn((part: Part) => part.number);
    const columns = [{ key: 'number', title: 'Number', width: '100px', cell }];
    render(<Sheet columns={columns} />);
    cell.mockClear();
    await userEvent.setup().keyboard('{ArrowDown}');
    // That which the cursor left, and that to which it came.
    expect(new Set(cell.mock.calls.map(([part]) => part.number))).toEqual(new Set(['P-0', 'P-1']));
  });

  it('gives the elements of rows that leave to those that come, where it may', () => {
    const scrolled = (isReusing: boolean): boolean => {
      const { unmount } = render(
        <Sheet reuses={isReusing} columns={COLUMNS.slice(0, 1)} takesFocus={false} />,
      );
      const grid = screen.getByRole('grid', { name: 'Parts' });
      const scrollTo = (row: number): void =>
        act(() => {
          grid.scrollTop = row * 32;
          fireEvent.scroll(grid);
        });
      // Away from the top, where there are rows beyond those in sight on one side only.
      scrollTo(2500);
      const before = new Set(within(grid).getAllByRole('row').slice(1));
      scrollTo(5000);
      const after = within(grid).getAllByRole('row').slice(1);
      expect(after[0]?.textContent).toMatch(/^P-49\d\d$/);
      expect(after.map((row) => Number(row.getAttribute('aria-rowindex')))).toEqual(
        after.map((_, at) => Number(after[0]?.getAttribute('aria-rowindex')) + at),
      );
      const isReused = after.every((row) => before.has(row));
      unmount();
      return isReused;
    };
    expect([scrolled(true), scrolled(false)]).toEqual([true, false]);
  });

  it('keeps the cursor on its row whatever others do, and acts on nothing while it is gone', async () => {
    const onOpen = vi.fn();
    const parts = PARTS.slice(0, 50);
    const { rerender } = render(<Sheet parts={parts} onOpen={onOpen} />);
    await userEvent.keyboard('{ArrowDown}{ArrowDown}');
    expect(underCursor()).toContain('P-2');
    rerender(<Sheet parts={[...parts].reverse()} onOpen={onOpen} />);
    await userEvent.keyboard('{Enter}');
    expect(onOpen.mock.lastCall?.[0]).toMatchObject({ number: 'P-2' });
    rerender(<Sheet parts={parts.filter(({ number }) => number !== 'P-2')} onOpen={onOpen} />);
    await userEvent.keyboard('{Enter}');
    expect(onOpen).toHaveBeenCalledTimes(1);
    // What went was the third from the end then; the row that stands there now comes next.
    await userEvent.keyboard('{ArrowDown}{Enter}');
    expect(onOpen.mock.lastCall?.[0]).toMatchObject({ number: 'P-48' });
  });

  it('shows that a row has not come yet', () => {
    render(<Coming />);
    expect(screen.getAllByText('…').length).toBeGreaterThan(10);
  });
});
