import type { EffectRequest, LensText, NetAnswer, NetNodeRow } from '@stem-trace/contract';
import { Net } from '@stem-trace/core';
import { queryOptions } from '@tanstack/react-query';
import { get, send } from './client.js';

export interface NetQuery {
  readonly item: string;
  readonly lens: LensText;
  readonly side: 'made' | 'used';
  /** All where 0. */
  readonly levels?: number;
  readonly papers?: boolean;
}

/** An answer with ways through it. */
export interface OpenNet {
  readonly net: Net<NetNodeRow>;
  readonly papers: NetAnswer['papers'];
  readonly hidden: number;
}

export const netQuery = ({ item, lens, side, levels = 0, papers = false }: NetQuery) =>
  queryOptions({
    queryKey: ['structure', 'net', item, lens, side, levels, papers],
    queryFn: async ({ signal }): Promise<OpenNet> => {
      const answer = await get('/api/net', { item, lens, side, levels, papers }, signal);
      const names = new Map(answer.configurations);
      const links = answer.links.map(([from, to, quantity, behind], at) => {
        const configurations = names.get(at);
        return { from, to, quantity, behind, ...(configurations ? { configurations } : {}) };
      });
      return { net: new Net(answer.nodes, links), papers: answer.papers, hidden: answer.hidden };
    },
    enabled: item !== '',
    structuralSharing: false,
  });

/** What was derived from what. */
export const stemQuery = (item: string, lens: LensText) =>
  queryOptions({
    queryKey: ['structure', 'stem', item, lens],
    queryFn: ({ signal }) => get('/api/stem', { item, lens }, signal),
    enabled: item !== '',
  });

/** All variants of a stem, position by position. */
export const familyQuery = (item: string, lens: LensText) =>
  queryOptions({
    queryKey: ['structure', 'family', item, lens],
    queryFn: ({ signal }) => get('/api/family', { item, lens }, signal),
    enabled: item !== '',
    structuralSharing: false,
  });

export const effectQuery = (request: EffectRequest) =>
  queryOptions({
    queryKey: ['structure', 'effect', request],
    queryFn: () => send('POST', '/api/effect', request),
    enabled: request.items.length > 0,
  });
