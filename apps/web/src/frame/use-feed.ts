import { useQueryClient, type Query, type QueryClient } from '@tanstack/react-query';
import type { FeedKind } from '@stem-trace/contract';
import { useEffect } from 'react';

/** Which answers are out of date when something of a kind changed. */
const TOUCHES: Readonly<Record<FeedKind, readonly string[]>> = {
  holds: ['changes', 'holds', 'items', 'item', 'structure'],
  items: ['items', 'item', 'structure', 'compare', 'holds', 'sheets', 'changes'],
  notices: ['notices'],
  jobs: ['jobs', 'proof', 'overlaps', 'intake'],
  shapes: ['like'],
  marks: ['mark-up'],
  scenes: ['scenes'],
  sheets: ['sheets'],
  changes: ['changes'],
  lifecycles: ['lifecycles', 'items', 'item'],
};

const ANYTHING = Object.keys(TOUCHES) as FeedKind[];

/**
 * Keeps what is shown current while others work: the server tells kinds, what is on screen is asked for again. What
 * changed while nobody listened, at first or between two connections, is not known; then everything is asked for again.
 */
export function useFeed(): void {
  const queries = useQueryClient();
  useEffect(() => {
    const again = new AskAgain(queries);
    const source = new EventSource('/api/feed');
    source.onopen = () => again.ask(ANYTHING);
    source.onmessage = (event: MessageEvent<string>) => again.ask(JSON.parse(event.data) as FeedKind[]);
    return () => {
      source.close();
      again.end();
    };
  }, [queries]);
}

/**
 * Asks again for answers that are out of date. A question that is under way may have been read before the change, and is
 * not broken off, or else nothing slow would ever be answered while many work: it is asked once more when it is answered.
 */
export class AskAgain {
  private readonly late = new Set<Query>();
  private readonly stop: () => void;

  constructor(private readonly queries: QueryClient) {
    this.stop = queries.getQueryCache().subscribe(({ type, query }) => {
      if (type === 'removed') this.late.delete(query);
      else if (query.state.fetchStatus === 'idle' && this.late.delete(query)) this.refresh(query);
    });
  }

  ask(kinds: readonly FeedKind[]): void {
    const keys = new Set(kinds.flatMap((kind) => TOUCHES[kind]));
    for (const query of this.queries.getQueryCache().getAll())
      if (keys.has(String(query.queryKey[0]))) {
        if (query.state.fetchStatus === 'fetching') this.late.add(query);
        else this.refresh(query);
      }
  }

  end(): void {
    this.stop();
  }

  private refresh(query: Query): void {
    void this.queries.invalidateQueries({ queryKey: query.queryKey, exact: true });
  }
}
