import type { DeriveProposal } from '@stem-trace/contract';
import { queryOptions, useQuery } from '@tanstack/react-query';
import { get } from '../../api/client.js';
import { usePerson } from '../../frame/person.js';
import { keep, useKept } from '../../ui/kept.js';
import { useSteps } from '../../ui/steps.js';
import { draftOf, isDraft, type DeriveDraft } from './draft.js';

const proposalQuery = (item: string) =>
  queryOptions({
    queryKey: ['derive', 'proposal', item],
    queryFn: ({ signal }) => get('/api/derive/proposal', { item }, signal),
    staleTime: 0,
    // What is proposed to begin with stays while it is worked on.
    refetchOnMount: false,
  });

export interface KeptDraft {
  /** Undefined until names have been proposed. */
  readonly draft: DeriveDraft | undefined;
  readonly change: (changes: Partial<DeriveDraft>) => void;
  /** Asks for other names than there are. */
  readonly propose: () => Promise<void>;
  /** All that was decided, as if nobody had been here. */
  readonly restart: () => void;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
  readonly undo: () => void;
  readonly redo: () => void;
  readonly error: Error | null;
  /** The last derivation of the stem; null where there is none. */
  readonly last: DeriveProposal['last'];
}

const isDraftOrNothing = (value: unknown): value is DeriveDraft | null => value === null || isDraft(value);

/** The draft of an origin; it outlives the view, the page and the session, until the variant is made. */
export function useDraft(item: string): KeptDraft {
  const { login } = usePerson();
  const [kept, setKept] = useKept<DeriveDraft | null>(keyOf(login, item), isDraftOrNothing, null);
  const proposal = useQuery(proposalQuery(item));
  const draft = kept ?? (proposal.data && begun(proposal.data));
  const steps = useSteps<DeriveDraft | null>(kept, setKept);
  const change = (changes: Partial<DeriveDraft>): void => {
    if (draft) steps.take({ ...draft, ...changes });
  };
  const { refetch } = proposal;
  const propose = async (): Promise<void> => {
    const { data } = await refetch();
    if (data) change({ rules: data.rules, scheme: data.scheme, says: data.says });
  };
  const { canUndo, canRedo, undo, redo } = steps;
  const restart = (): void => {
    steps.clear();
    setKept(null);
    keep(keyOf(login, item), undefined);
  };
  // What is proposed matters to whoever has decided nothing yet.
  const error = kept === null ? proposal.error : null;
  const last = proposal.data?.last ?? null;
  return { draft, change, propose, restart, canUndo, canRedo, undo, redo, error, last };
}

function keyOf(login: string, item: string): string {
  return `derive.${login}.${item}`;
}

const BEGUN = new WeakMap<DeriveProposal, DeriveDraft>();

/** The same draft as long as it is the same proposal. */
function begun(proposal: DeriveProposal): DeriveDraft {
  const draft = BEGUN.get(proposal) ?? draftOf(proposal);
  BEGUN.set(proposal, draft);
  return draft;
}
