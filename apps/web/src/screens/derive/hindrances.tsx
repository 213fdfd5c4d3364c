import type { DeriveHindrance } from '@stem-trace/contract';
import styled from 'styled-components';
import { Mono, Soft } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';

/** Numbers that are written out. */
const SHOWN = 6;

/** What stands in the way, summed up: what stops first, each with what can be done about it. */
export function Hindrances({ all }: { readonly all: readonly DeriveHindrance[] }): React.JSX.Element {
  if (all.length === 0) return <Soft>Nothing stands in the way.</Soft>;
  return (
    <List>
      {all.map(({ kind, stops, says, help, numbers }) => (
        <li key={`${kind} ${says}`}>
          {stops ? <AttentionMark>{says}</AttentionMark> : <b>{says}</b>}
          <Mono>
            {numbers.slice(0, SHOWN).join(', ')}
            {numbers.length > SHOWN ? ` and ${numbers.length - SHOWN} more` : ''}
          </Mono>
          <Soft>{help}</Soft>
        </li>
      ))}
    </List>
  );
}

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
  li {
    display: grid;
    gap: 2px;
    overflow-wrap: anywhere;
  }
`;
