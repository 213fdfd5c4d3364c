import { useQueryClient } from '@tanstack/react-query';
import type { FeedKind } from '@stem-trace/contract';
import { useEffect } from 'react';

/** Which answers are out of date when something of a kind changed. */
const TOUCHES: Readonly<Record<FeedKind, readonly string[]>> = {
  holds: ['holds', 'items', 'item', 'structure'],
  items: ['items', 'item', 'structure', 'compare', 'holds'],
  notices: ['notices'],
  jobs: ['jobs', 'proof', 'intake'],
  shapes: ['like'],
  marks: ['mark-up'],
  scenes: ['scenes'],
};

/** Keeps what is shown current while others work: the server tells kinds, what is on screen is asked for again. */
export function useFeed(): void {
  const queries = useQueryClient();
  useEffect(() => {
    const source = new EventSource('/api/feed');
    source.onmessage = (event: MessageEvent<string>) => {
      const keys = new Set((JSON.parse(event.data) as FeedKind[]).flatMap((kind) => TOUCHES[kind]));
      void queries.invalidateQueries({ predicate: ({ queryKey }) => keys.has(String(queryKey[0])) });
    };
    return () => source.close();
  }, [queries]);
}
