/** Parts that are tried without writing anything: in the place of another, or on a face; then dropped, or taken into a variant. */
import { useState } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { deriveAddress } from '../../../frame/addresses.js';
import { useDesk } from '../../../frame/desk.js';
import { ItemPicker } from '../../../frame/item-picker.js';
import { Button, Choice, Hint, Mono, Soft } from '../../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../../ui/dialog-frame.js';
import type { Measured } from './measured.js';
import { additionOf, type Standing, type TriedPart, type TriedParts } from './use-tried.js';
import type { Looking } from './use-looking.js';

interface TryPartProps {
  readonly looking: Looking;
  readonly tried: TriedParts;
}

export function TryPart({ looking, tried }: TryPartProps): React.JSX.Element {
  const { scene, state, picked } = looking;
  const [asking, ask] = useState<'place' | 'face'>();
  const [node] = [...state.selected];
  const place = node !== undefined && state.selected.size === 1 ? scene.nodes[node] : undefined;
  const face = picked.at(-1);
  const within = place && place.parent >= 0 && place.parent < tried.uses ? place.parent : undefined;
  const isOnFace = face?.kind === 'face' && within !== undefined && face.number === place?.number;
  const put = (part: TriedPart): void => {
    tried.put(part);
    ask(undefined);
  };
  return (
    <>
      <Button onPress={() => ask('place')} isDisabled={!place || place.parent < 0}>
        Try another in its place …
      </Button>
      <Button onPress={() => ask('face')} isDisabled={!isOnFace}>
        Try one on this face …
      </Button>
      {tried.says === '' ? null : <Soft role="status">{tried.says}</Soft>}
      {tried.parts.map((part, at) => (
        <TriedOne key={at} {...{ looking, tried, part }} />
      ))}
      {asking === 'place' && node !== undefined && place ? (
        <PlaceDialog
          number={place.number}
          onTry={(item) => put({ node, item })}
          onClose={() => ask(undefined)}
        />
      ) : null}
      {asking === 'face' && isOnFace ? (
        <FaceDialog
          face={face}
          within={scene.nodes[within]?.number ?? ''}
          onTry={(item, stands) => put({ node: within, item, stands })}
          onClose={() => ask(undefined)}
        />
      ) : null}
    </>
  );
}

function TriedOne({ looking, tried, part }: TryPartProps & { readonly part: TriedPart }): React.JSX.Element {
  const { scene } = looking;
  const old = scene.nodes[part.node]?.number ?? '';
  const origin = looking.item.split('@')[0] ?? '';
  const addition = part.stands && additionOf(scene, part);
  const change = part.stands
    ? addition && { add: JSON.stringify(addition) }
    : { swap: `${old}=${part.item}` };
  return (
    <Tried role="group" aria-label={`Tried: ${part.item}`}>
      <span>
        <Mono>{part.item}</Mono> tried {part.stands ? 'in' : 'for'} <Mono>{old}</Mono>
      </span>
      <Button onPress={() => tried.drop(part)}>Drop it</Button>
      {change ? <Link to={deriveAddress(origin, change)}>Derive with it</Link> : null}
    </Tried>
  );
}

interface TryDialogProps {
  readonly title: string;
  readonly hint: string;
  /** What is not offered first. */
  readonly number: string;
  readonly onTry: (item: string) => void;
  readonly onClose: () => void;
  readonly children?: React.ReactNode;
}

function TryDialog({ title, hint, number, onTry, onClose, children }: TryDialogProps): React.JSX.Element {
  const { tray } = useDesk();
  const [first] = useState(() => tray.find((each) => each.number !== number)?.number ?? '');
  const [item, setItem] = useState(first);
  return (
    <DialogFrame title={title} widthPx={460} onClose={onClose}>
      <Hint>{hint}</Hint>
      <ItemPicker
        label="Try this item"
        value={first}
        onChoose={setItem}
        onType={setItem}
        width="100%"
        takesFocus
      />
      {children}
      <DialogButtons>
        <Button onPress={onClose}>Cancel</Button>
        <Button isDisabled={item === ''} onPress={() => onTry(item)}>
          Try it
        </Button>
      </DialogButtons>
    </DialogFrame>
  );
}

function PlaceDialog({
  number,
  ...rest
}: Pick<TryDialogProps, 'number' | 'onTry' | 'onClose'>): React.JSX.Element {
  return (
    <TryDialog
      title={`In the place of ${number}`}
      hint={`It is shown where ${number} stands, turned as that is. Nothing is written: drop it again, or derive a variant in which it is swapped.`}
      {...{ number, ...rest }}
    />
  );
}

interface FaceDialogProps {
  readonly face: Measured & { readonly kind: 'face' };
  /** Number of the assembly that gets it. */
  readonly within: string;
  readonly onTry: (item: string, stands: Standing) => void;
  readonly onClose: () => void;
}

function FaceDialog({ face, within, onTry, onClose }: FaceDialogProps): React.JSX.Element {
  const { surface, point, number } = face;
  const along = surface?.kind === 'plane' ? surface.normal : undefined;
  const [turned, turn] = useState<'face' | 'assembly'>(along ? 'face' : 'assembly');
  return (
    <TryDialog
      title={`On this face of ${number}`}
      hint={`Its origin is shown where you clicked, as one more part of ${within}. Nothing is written: drop it again, or derive a variant that gets it.`}
      number={number}
      onTry={(item) => onTry(item, { point, ...(turned === 'face' && along ? { along } : {}) })}
      onClose={onClose}
    >
      {along ? (
        <Choice
          label="Turned"
          options={[
            { key: 'face', text: 'Its z out of the face' },
            { key: 'assembly', text: `As ${within} is` },
          ]}
          value={turned}
          onChange={turn}
        />
      ) : null}
    </TryDialog>
  );
}

const Tried = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 6px;
`;
