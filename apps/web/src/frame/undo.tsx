/** What was just done and can be taken back. */
import { useQueryClient } from '@tanstack/react-query';
import { createContext, useCallback, useContext, useEffect, useMemo, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { Button, QuietButton } from '../ui/controls.js';
import { colour } from '../ui/theme.js';

const SHOWN_MS = 20_000;

interface Offer {
  /** What was done, as a sentence. */
  readonly says: string;
  readonly undo: () => Promise<unknown>;
}

const UndoContext = createContext<(offer: Offer) => void>(() => undefined);

/** Offers to take something back, until the next deed or a while has passed. */
export function useUndo(): (offer: Offer) => void {
  return useContext(UndoContext);
}

export function UndoProvider({ children }: { readonly children: ReactNode }): React.JSX.Element {
  const queries = useQueryClient();
  const [offered, setOffered] = useState<Offer>();
  const [trouble, setTrouble] = useState('');
  useEffect(() => {
    if (!offered) return undefined;
    const timer = setTimeout(() => setOffered(undefined), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [offered]);
  const offer = useCallback((next: Offer) => {
    setTrouble('');
    setOffered(next);
  }, []);
  const undo = useMemo(
    () => async (): Promise<void> => {
      try {
        await offered?.undo();
        setOffered(undefined);
        await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      } catch (error) {
        setTrouble(error instanceof Error ? error.message : String(error));
      }
    },
    [offered, queries],
  );
  return (
    <UndoContext value={offer}>
      {children}
      {offered ? (
        <Strip role="status">
          <span>{trouble === '' ? offered.says : trouble}</span>
          <Button onPress={() => void undo()}>Undo</Button>
          <QuietButton onPress={() => setOffered(undefined)}>Close</QuietButton>
        </Strip>
      ) : null}
    </UndoContext>
  );
}

const Strip = styled.div`
  position: fixed;
  left: 50%;
  bottom: 56px;
  transform: translateX(-50%);
  z-index: 5;
  display: flex;
  align-items: center;
  gap: 10px;
  max-width: calc(100vw - 32px);
  padding: 8px 8px 8px 14px;
  border-radius: 5px;
  background: ${colour.raised};
  border: 1px solid ${colour.petrol};
  box-shadow: 0 6px 20px #0003;
`;
