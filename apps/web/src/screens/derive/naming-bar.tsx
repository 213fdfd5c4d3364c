import { sayRule } from '@stem-trace/core';
import { useEffect, useRef } from 'react';
import styled from 'styled-components';
import { Button, Mono, PrimaryButton } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import type { Naming } from './use-naming.js';

/** Says how an edit was understood, and lets it be taken, narrowed or refused; each with a key. */
export function NamingBar({ naming }: { readonly naming: Naming }): React.JSX.Element | null {
  const bar = useRef<HTMLDivElement>(null);
  const { understood } = naming;
  const edited = understood && `${understood.number} ${understood.field} ${understood.after}`;
  useEffect(() => {
    if (edited !== undefined) bar.current?.focus();
  }, [edited]);
  if (!understood) return null;
  const { candidates, at, number } = understood;
  const shown = candidates[at];
  if (!shown) return null;
  const [wider, narrower] = [candidates[at - 1], candidates[at + 1]];
  return (
    <Bar
      ref={bar}
      tabIndex={-1}
      role="group"
      aria-label="How the edit was understood"
      onKeyDown={(event) => {
        const run = {
          Enter: naming.take,
          n: () => naming.turn(1),
          w: () => naming.turn(-1),
          Escape: naming.onlyThisLine,
        }[event.key];
        if (!run || (event.key === 'Enter' && event.target !== event.currentTarget)) return;
        event.preventDefault();
        event.stopPropagation();
        run();
      }}
    >
      <span role="status">
        Understood: {shown.rules.map(sayRule).join(', then ')}. Fits{' '}
        <Mono>{shown.fits.toLocaleString('en-GB')}</Mono> {shown.fits === 1 ? 'line' : 'lines'}.
      </span>
      <PrimaryButton onPress={naming.take}>
        Take <Key>Enter</Key>
      </PrimaryButton>
      <Button isDisabled={!narrower} onPress={() => naming.turn(1)}>
        {narrower && narrower.fits === shown.fits ? 'Otherwise' : 'Narrower'}
        {narrower ? `: ${narrower.fits}` : ''} <Key>n</Key>
      </Button>
      <Button isDisabled={!wider} onPress={() => naming.turn(-1)}>
        Wider{wider ? `: ${wider.fits}` : ''} <Key>w</Key>
      </Button>
      <Button onPress={naming.onlyThisLine}>
        Only {number} <Key>Esc</Key>
      </Button>
    </Bar>
  );
}

const Bar = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
  flex-wrap: wrap;
  padding: 8px 12px;
  border: 1px solid ${colour.petrol};
  border-radius: 4px;
  background: ${colour.petrolSoft};
`;
const Key = styled.kbd`
  font: inherit;
  font-size: 11px;
  opacity: 0.8;
`;
