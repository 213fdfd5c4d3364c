import type { HolderView } from '@stem-trace/contract';
import styled from 'styled-components';
import { usePerson } from '../frame/person.js';
import { colour, font } from './theme.js';
import { sayDate } from './when.js';

/** A hold: the holder's initials in a notched tag, filled when it is mine. */
export function HolderTag({ holder }: { readonly holder: HolderView | null }): React.JSX.Element | null {
  const me = usePerson();
  if (!holder) return null;
  const says = `Held by ${holder.name} since ${sayDate(new Date(holder.since), new Date())}${holder.reason === '' ? '' : `: ${holder.reason}`}`;
  return (
    <Tag role="img" aria-label={says} title={says} data-mine={holder.login === me.login || undefined}>
      {holder.initials}
    </Tag>
  );
}

const Tag = styled.span`
  display: inline-block;
  flex: none;
  padding: 0 7px 0 5px;
  font: 500 11px/17px ${font.mono};
  color: ${colour.petrol};
  background: ${colour.petrolSoft};
  clip-path: polygon(0 0, 100% 0, 100% 60%, 80% 100%, 0 100%);
  &[data-mine] {
    color: ${colour.onPetrol};
    background: ${colour.petrol};
  }
`;
