/** What is open of an outline, kept in the address: a level or words looked for, and single rows opened or closed since. */
import type { NetNodeRow } from '@stem-trace/contract';
import {
  openToLevel,
  openToNodes,
  outlineRows,
  type Net,
  type OrderLinks,
  type OutlineRow,
} from '@stem-trace/core';
import { useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { useChangeSearch } from '../../frame/addresses.js';

/** Longer addresses are not sent well; rows beyond stay open only as long as the view. */
const MOST_PATHS = 200;

export interface Outline {
  readonly rows: readonly OutlineRow[];
  readonly level: number;
  readonly seek: string;
  readonly matches: number;
  fits(node: number): boolean;
  toggle(row: OutlineRow): void;
  showLevel(level: number): void;
  lookFor(words: string): void;
}

/** @param order of what stands beside each other */
export function useOutline(net: Net<NetNodeRow>, order?: OrderLinks): Outline {
  const [search] = useSearchParams();
  const level = Math.max(1, Number(search.get('level') ?? 2) || 2);
  const seek = search.get('seek') ?? '';
  const toggled = useMemo(() => new Set((search.get('rows') ?? '').split(' ').filter(Boolean)), [search]);
  const wanted = seek.toLowerCase();
  const fits = useMemo(() => {
    const found = net.nodes.map(
      ({ number, name }) => wanted !== '' && `${number} ${name}`.toLowerCase().includes(wanted),
    );
    return (node: number): boolean => found[node] ?? false;
  }, [net, wanted]);
  const base = useMemo(
    () => (wanted === '' ? openToLevel(net, 0, level) : openToNodes(net, 0, fits)),
    [net, wanted, level, fits],
  );
  const rows = useMemo(() => {
    const open = new Set(base);
    for (const path of toggled) {
      if (open.has(path)) open.delete(path);
      else open.add(path);
    }
    return outlineRows(net, 0, open, order);
  }, [net, base, toggled, order]);
  const set = useChangeSearch();
  return {
    rows,
    level,
    seek,
    matches: wanted === '' ? 0 : rows.filter(({ node }) => fits(node)).length,
    fits,
    toggle: ({ path, hasMore }) => {
      if (!hasMore || path === '') return;
      const next = new Set(toggled);
      if (next.has(path)) next.delete(path);
      else next.add(path);
      set({ rows: [...next].slice(-MOST_PATHS).join(' ') });
    },
    showLevel: (next) => set({ level: String(next), rows: '', seek: '' }),
    lookFor: (words) => set({ seek: words, rows: '' }),
  };
}
