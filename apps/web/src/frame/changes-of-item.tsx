/** Changes that an item has to do with, and the way to ask for another one. */
import type { ChangeRow, ItemView } from '@stem-trace/contract';
import { isChange } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { MessageCirclePlus } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { changesQuery } from '../api/changes.js';
import { Mono, QuietButton, Soft } from '../ui/controls.js';
import { StateGlyph } from '../ui/glyphs.js';
import { changeAddress } from './addresses.js';
import { usePerson } from './person.js';
import { RequestDialog } from './request-dialog.js';

const SHOWN = 6;

export function ChangesOfItem({ item }: { readonly item: ItemView }): React.JSX.Element | null {
  const person = usePerson();
  const [isAsking, ask] = useState(false);
  const isOne = isChange(item.kind);
  const changes = useQuery({ ...changesQuery(item.number), enabled: !isOne }).data ?? [];
  if (isOne) return null;
  return (
    <Block aria-label="Changes">
      {changes.slice(0, SHOWN).map((row) => (
        <OneChange key={row.number} row={row} />
      ))}
      {changes.length > SHOWN ? <Soft>and {changes.length - SHOWN} older ones</Soft> : null}
      {person.role === 'viewer' ? null : (
        <QuietButton onPress={() => ask(true)}>
          <MessageCirclePlus size={15} aria-hidden /> Request a change …
        </QuietButton>
      )}
      {isAsking ? <RequestDialog items={[item.number]} onClose={() => ask(false)} /> : null}
    </Block>
  );
}

function OneChange({ row: { number, name, state } }: { readonly row: ChangeRow }): React.JSX.Element {
  return (
    <p>
      <StateGlyph state={state} />{' '}
      <Link to={changeAddress(number)}>
        <Mono>{number}</Mono>
      </Link>{' '}
      {name} <Soft>{state}</Soft>
    </p>
  );
}

const Block = styled.section`
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 4px;
  p {
    margin: 0;
  }
  button {
    margin-left: -4px;
    padding: 3px 6px;
    gap: 8px;
  }
`;
