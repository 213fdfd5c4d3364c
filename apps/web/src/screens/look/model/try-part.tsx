/** Another part in the place of the one that is selected, without writing anything; then dropped, or swapped in a variant. */
import { useState } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { deriveAddress } from '../../../frame/addresses.js';
import { useDesk } from '../../../frame/desk.js';
import { ItemPicker } from '../../../frame/item-picker.js';
import { Button, Hint, Mono, Soft } from '../../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../../ui/dialog-frame.js';
import type { TriedParts } from './use-tried.js';
import type { Looking } from './use-looking.js';

export function TryPart({
  looking,
  tried,
}: {
  readonly looking: Looking;
  readonly tried: TriedParts;
}): React.JSX.Element {
  const { scene, state } = looking;
  const [isAsking, ask] = useState(false);
  const [node] = [...state.selected];
  const place = node !== undefined && state.selected.size === 1 ? scene.nodes[node] : undefined;
  return (
    <>
      <Button onPress={() => ask(true)} isDisabled={!place || place.parent < 0}>
        Try another in its place …
      </Button>
      {tried.says === '' ? null : <Soft role="status">{tried.says}</Soft>}
      {tried.parts.map((part) => {
        const old = scene.nodes[part.node]?.number ?? '';
        return (
          <Tried key={part.node} role="group" aria-label={`Tried: ${part.item}`}>
            <span>
              <Mono>{part.item}</Mono> tried for <Mono>{old}</Mono>
            </span>
            <Button onPress={() => tried.drop(part.node)}>Drop it</Button>
            <Link
              to={`${deriveAddress(looking.item.split('@')[0] ?? '')}&swap=${encodeURIComponent(`${old}=${part.item}`)}`}
            >
              Derive with it
            </Link>
          </Tried>
        );
      })}
      {isAsking && node !== undefined && place ? (
        <TryDialog
          number={place.number}
          onTry={(item) => {
            tried.put({ node, item });
            ask(false);
          }}
          onClose={() => ask(false)}
        />
      ) : null}
    </>
  );
}

interface TryDialogProps {
  readonly number: string;
  readonly onTry: (item: string) => void;
  readonly onClose: () => void;
}

function TryDialog({ number, onTry, onClose }: TryDialogProps): React.JSX.Element {
  const { tray } = useDesk();
  const [first] = useState(() => tray.find((each) => each.number !== number)?.number ?? '');
  const [item, setItem] = useState(first);
  return (
    <DialogFrame title={`In the place of ${number}`} widthPx={460} onClose={onClose}>
      <Hint>
        It is shown where {number} stands, turned as that is. Nothing is written: drop it again, or derive a
        variant in which it is swapped.
      </Hint>
      <ItemPicker
        label="Try this item"
        value={first}
        onChoose={setItem}
        onType={setItem}
        width="100%"
        takesFocus
      />
      <DialogButtons>
        <Button onPress={onClose}>Cancel</Button>
        <Button isDisabled={item === ''} onPress={() => onTry(item)}>
          Try it
        </Button>
      </DialogButtons>
    </DialogFrame>
  );
}

const Tried = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 6px;
`;
