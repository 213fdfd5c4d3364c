/** What all screens share: the item under the cursor, the tray, and whether the margin is open. */
import { createContext, useCallback, useContext, useEffect, useMemo, useState, type ReactNode } from 'react';
import { readKept, useKept } from '../ui/kept.js';
import { useIsNarrow } from '../ui/use-narrow.js';
import { usePerson } from './person.js';

export interface TrayItem {
  readonly number: string;
  readonly name: string;
}

/** What the margin says where the cursor is on something that is no item of the store. */
export interface CursorNote {
  readonly title: string;
  readonly lines: readonly string[];
  /** What is known of it. */
  readonly facts?: readonly { readonly name: string; readonly shown: string }[];
  readonly picture?: ReactNode;
}

export interface Desk {
  /** `NUMBER` or `NUMBER@B/3`; empty where the cursor is on nothing. */
  readonly underCursor: string;
  readonly note: CursorNote | undefined;
  pointAt(item: string, note?: CursorNote): void;
  readonly tray: readonly TrayItem[];
  isInTray(number: string): boolean;
  toggleInTray(item: TrayItem): void;
  clearTray(): void;
  /** What was looked at last, the latest first. */
  readonly looked: readonly TrayItem[];
  noteLooked(item: TrayItem): void;
  readonly marginOpen: boolean;
  toggleMargin(): void;
}

const DeskContext = createContext<Desk | undefined>(undefined);

const TRAY_KEY = 'stem-trace.tray';
const MOST_LOOKED = 20;

export function DeskProvider({ children }: { readonly children: ReactNode }): React.JSX.Element {
  const [{ underCursor, note }, setPointed] = useState<{
    underCursor: string;
    note?: CursorNote | undefined;
  }>({ underCursor: '' });
  const pointAt = useCallback(
    (item: string, about?: CursorNote) => setPointed({ underCursor: item, note: about }),
    [],
  );
  const [marginOpen, toggleMargin] = useMargin();
  const [tray, setTray] = useState<readonly TrayItem[]>(readTray);
  useEffect(() => sessionStorage.setItem(TRAY_KEY, JSON.stringify(tray)), [tray]);
  const toggleInTray = useCallback((item: TrayItem) => {
    setTray((before) => {
      const without = before.filter(({ number }) => number !== item.number);
      return without.length < before.length ? without : [...before, item];
    });
  }, []);
  const { login } = usePerson();
  const [looked, setLooked] = useKept(`looked.${login}`, isItems, NOTHING);
  const noteLooked = useCallback(
    ({ number, name }: TrayItem) => {
      const others = (readKept(`looked.${login}`, isItems) ?? []).filter((item) => item.number !== number);
      setLooked([{ number, name }, ...others].slice(0, MOST_LOOKED));
    },
    [login, setLooked],
  );
  const desk = useMemo<Desk>(() => {
    return {
      underCursor,
      note,
      pointAt,
      tray,
      isInTray: (number) => tray.some((item) => item.number === number),
      toggleInTray,
      clearTray: () => setTray([]),
      looked,
      noteLooked,
      marginOpen,
      toggleMargin,
    };
  }, [underCursor, note, pointAt, tray, toggleInTray, looked, noteLooked, marginOpen, toggleMargin]);
  return <DeskContext value={desk}>{children}</DeskContext>;
}

/** Beside the sheet there is room for the margin; over it, where there is none, it comes when it is asked for. */
function useMargin(): [boolean, () => void] {
  const width = useIsNarrow() ? 'narrow' : 'wide';
  const [open, setOpen] = useState({ narrow: false, wide: true });
  const toggle = useCallback(() => setOpen((before) => ({ ...before, [width]: !before[width] })), [width]);
  return [open[width], toggle];
}

export function useDesk(): Desk {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error('useDesk needs a DeskProvider around it');
  return desk;
}

/** Notes that an item is looked at, once it is known what it is. */
export function useLooked(item: TrayItem | undefined): void {
  const { noteLooked } = useDesk();
  const [number, name] = [item?.number, item?.name];
  useEffect(() => {
    if (number !== undefined) noteLooked({ number, name: name ?? '' });
  }, [number, name, noteLooked]);
}

const NOTHING: readonly TrayItem[] = [];

function isItems(value: unknown): value is readonly TrayItem[] {
  return (
    Array.isArray(value) &&
    value.every(
      (item: unknown) =>
        typeof item === 'object' &&
        item !== null &&
        'number' in item &&
        'name' in item &&
        typeof item.number === 'string' &&
        typeof item.name === 'string',
    )
  );
}

function readTray(): readonly TrayItem[] {
  try {
    const kept: unknown = JSON.parse(sessionStorage.getItem(TRAY_KEY) ?? '[]');
    return isItems(kept) ? kept : [];
  } catch {
    return [];
  }
}
