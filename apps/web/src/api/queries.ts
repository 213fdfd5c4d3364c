import type { IntakeState, LensText } from '@stem-trace/contract';
import { queryOptions } from '@tanstack/react-query';
import { get } from './client.js';

export const sessionQuery = queryOptions({
  queryKey: ['session'],
  queryFn: ({ signal }) => get('/api/session', {}, signal),
  retry: false,
  staleTime: Infinity,
});

export const lifecyclesQuery = queryOptions({
  queryKey: ['lifecycles'],
  queryFn: ({ signal }) => get('/api/lifecycles', {}, signal),
  staleTime: Infinity,
});

export const welcomeQuery = queryOptions({
  queryKey: ['welcome'],
  queryFn: ({ signal }) => get('/api/welcome', {}, signal),
  staleTime: Infinity,
});

export const itemQuery = (item: string) =>
  queryOptions({
    queryKey: ['item', item],
    queryFn: ({ signal }) => get('/api/item', { item }, signal),
    enabled: item !== '',
  });

export interface StructurePart {
  /** Rows from the first on. */
  readonly limit?: number;
  /** Part of number or name. */
  readonly filter?: string;
}

export const structureQuery = (
  side: 'made' | 'used',
  item: string,
  lens: LensText,
  { limit, filter }: StructurePart = {},
) =>
  queryOptions({
    queryKey: ['structure', side, item, lens, limit, filter],
    queryFn: ({ signal }) => get(`/api/${side}`, { item, lens, limit, filter }, signal),
    enabled: item !== '',
  });

/** What is compared, and how; see `GET /api/compare`. */
export interface CompareQuery {
  readonly from: string;
  readonly to: string;
  readonly net: boolean;
  readonly lens: LensText;
  readonly fromLens?: LensText;
  readonly toLens?: LensText;
  /** In order, parted by commas. */
  readonly by?: string;
  /** Pairs of ways in JSON. */
  readonly hand?: string;
  /** Parted by semicolons. */
  readonly columns?: string;
}

export const compareQuery = ({ fromLens, toLens, by, hand, columns, ...query }: CompareQuery) =>
  queryOptions({
    queryKey: ['compare', query, fromLens, toLens, by, hand, columns],
    queryFn: ({ signal }) => get('/api/compare', { ...query, fromLens, toLens, by, hand, columns }, signal),
    enabled: query.from !== '' && query.to !== '',
    placeholderData: (before) => before,
  });

export interface ThreeQuery {
  /** Found by lineage where empty. */
  readonly base: string;
  readonly one: string;
  readonly other: string;
  readonly lens: LensText;
  readonly columns: string;
}

export const threeQuery = (query: ThreeQuery, isWanted: boolean) =>
  queryOptions({
    queryKey: ['compare', 'three', query],
    queryFn: ({ signal }) => get('/api/compare/three', { ...query }, signal),
    enabled: isWanted && query.one !== '' && query.other !== '',
    retry: false,
  });

/** States that change by themselves. */
const UNDER_WAY: ReadonlySet<IntakeState | undefined> = new Set<IntakeState>(['unpacking', 'carrying out']);

export const intakeQuery = (id: string) =>
  queryOptions({
    queryKey: ['intake', id],
    queryFn: ({ signal }) => get(`/api/intakes/${id}`, {}, signal),
    refetchInterval: ({ state }) => (UNDER_WAY.has(state.data?.state) ? 300 : false),
  });

export const placesQuery = queryOptions({
  queryKey: ['items', 'places'],
  queryFn: ({ signal }) => get('/api/places', {}, signal),
});

export const peopleQuery = queryOptions({
  queryKey: ['people'],
  queryFn: ({ signal }) => get('/api/people', {}, signal),
});

export const intakesQuery = queryOptions({
  queryKey: ['intakes'],
  queryFn: ({ signal }) => get('/api/intakes', {}, signal),
  staleTime: 0,
});
