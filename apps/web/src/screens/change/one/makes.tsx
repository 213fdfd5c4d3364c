/** Revisions that are worked on under an order, with the versions made for it. */
import type { ChangeView, MadeRow } from '@stem-trace/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { useChangeDeed } from '../../../api/changes.js';
import { compareAddress, traceAddress } from '../../../frame/addresses.js';
import { ItemPicker } from '../../../frame/item-picker.js';
import { Mono, QuietButton, Soft, Trouble } from '../../../ui/controls.js';
import { StateGlyph } from '../../../ui/glyphs.js';
import { HolderTag } from '../../../ui/holder-tag.js';
import { Part, TakeOut } from './parts.js';

export function Makes({ view }: { readonly view: ChangeView }): React.JSX.Element {
  const { number, makes, makesHidden, heldFor, lane } = view;
  const deed = useChangeDeed();
  const [isAdding, add] = useState(false);
  const isOpen = lane === 'open' && view.isNewest;
  return (
    <Part title={`Makes: ${makes.length}`}>
      {deed.error ? <Trouble>{deed.error.message}</Trouble> : null}
      {makes.length === 0 ? (
        <Soft>
          Nothing yet. Check something out for {number}, or revise it for {number}: every version counts here.
        </Soft>
      ) : null}
      <List>
        {makes.map((row) => (
          <Made
            key={row.number}
            row={row}
            onLeave={
              isOpen ? () => deed.mutate({ kind: 'leaves', change: number, items: [row.number] }) : undefined
            }
          />
        ))}
      </List>
      {heldFor.map(({ number: of, name, by }) => (
        <Soft key={of}>
          <Mono>{of}</Mono> {name} is held for it by {by}.
        </Soft>
      ))}
      {makesHidden > 0 ? <Soft>and {makesHidden} more that you may not see</Soft> : null}
      {isOpen ? (
        isAdding ? (
          <ItemPicker
            label="Open revision that counts as made by it"
            value=""
            onChoose={(item) => {
              deed.mutate({ kind: 'makes', change: number, items: [item.split('@')[0] ?? item] });
              add(false);
            }}
            width="240px"
            takesFocus
          />
        ) : (
          <QuietButton onPress={() => add(true)}>Count something open as made by it …</QuietButton>
        )
      ) : null}
    </Part>
  );
}

function Made({
  row: { number, name, from, to, state, heldBy, versions },
  onLeave,
}: {
  readonly row: MadeRow;
  readonly onLeave: (() => void) | undefined;
}): React.JSX.Element {
  return (
    <li>
      <StateGlyph state={state} />{' '}
      <Link to={traceAddress(number)}>
        <Mono>{number}</Mono>
      </Link>{' '}
      {name} {heldBy ? <HolderTag holder={heldBy} /> : null}{' '}
      {from === null ? (
        <Soft>
          new, <Mono>{to}</Mono>
        </Soft>
      ) : (
        <Link to={compareAddress(`${number}@${from}`, `${number}@${to}`)}>
          <Mono>
            {from} → {to}
          </Mono>
        </Link>
      )}
      {onLeave && versions.length === 0 ? (
        <TakeOut label={`${number} does not belong to it`} onPress={onLeave} />
      ) : null}
      {versions.map(({ version, comment, by }) => (
        <Version key={version}>
          <Mono>{version}</Mono> {comment === '' ? 'no comment' : comment}, {by}
        </Version>
      ))}
    </li>
  );
}

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
`;
const Version = styled(Soft)`
  display: block;
  padding-left: 20px;
  font-size: 12px;
`;
