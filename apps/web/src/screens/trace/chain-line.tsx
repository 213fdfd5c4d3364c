import { Fragment } from 'react';
import styled from 'styled-components';
import { Mono, Soft } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { totalOf, type ChainLink } from './chain.js';

/** `FM-1000 › FM-2300 ×1 › FM-2900 ×2 = 2 per FM-1000` */
export function ChainLine({ chain }: { readonly chain: readonly ChainLink[] }): React.JSX.Element {
  return (
    <Line aria-live="polite" aria-label="Chain">
      {chain.map((link, index) => (
        <Fragment key={index}>
          {index > 0 ? <Soft> › </Soft> : null}
          <Mono>{link.number}</Mono>
          {link.quantity === undefined ? null : <Quantity>×{link.quantity}</Quantity>}
        </Fragment>
      ))}
      {chain.length > 1 ? (
        <Total>
          = {totalOf(chain)} per {chain[0]?.number}
        </Total>
      ) : (
        <Soft>the focus; ← used in, → components</Soft>
      )}
    </Line>
  );
}

const Line = styled.div`
  display: flex;
  align-items: baseline;
  gap: 6px;
  min-height: 30px;
  padding: 5px 12px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  overflow-x: auto;
  white-space: nowrap;
  flex: none;
`;
const Quantity = styled(Mono)`
  color: ${colour.petrol};
`;
const Total = styled.strong`
  margin-left: 6px;
  font-weight: 600;
`;
