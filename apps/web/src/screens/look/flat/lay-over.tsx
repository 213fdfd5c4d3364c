/** Another version laid over what is looked at; which one, and the way from one difference to the next. */
import type { Extent } from '@stem-trace/core/sheet';
import type { ItemView } from '@stem-trace/contract';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { useChangeSearch } from '../../../frame/addresses.js';
import { Button, Pick, Soft } from '../../../ui/controls.js';
import { toScreen, type View } from '../../../pictures/board/view.js';
import { colour } from '../../../ui/theme.js';
import { OVERLAID } from './drawing-surface.js';

type Go = (extent: Extent) => void;

/** In the address where something lies over it from the beginning, and does not any more. */
const NOTHING = 'nothing';

/**
 * Kept in the address, so that a colleague sees the same.
 *
 * @param before version that lies over it until another is chosen
 */
export function useLaidOver(item: ItemView, before = '') {
  const [search] = useSearchParams();
  const change = useChangeSearch();
  const [at, setAt] = useState(-1);
  const said = search.get('over') ?? before;
  const version = said === NOTHING || said === item.shown ? '' : said;
  return {
    version,
    reference: `${item.number}@${version}`,
    lay: (next: string): void => {
      setAt(-1);
      change({ over: next === '' && before !== '' ? NOTHING : next });
    },
    at,
    /** To the next difference, or back to the one before; from the last to the first. */
    step: (places: readonly Extent[], go: Go, by: 1 | -1): void => {
      const following = stepped(at, places.length, by);
      setAt(following);
      const place = places[following];
      // Another object, so that the same place is gone to again.
      if (place) go({ ...place });
    },
  };
}

/** @param at -1 where one has gone to none yet */
export function stepped(at: number, count: number, by: 1 | -1): number {
  if (count === 0) return -1;
  return at < 0 ? (by > 0 ? 0 : count - 1) : (at + by + count) % count;
}

/** Keys that go through the differences, where there are any. */
export function stepKeys(
  { step }: Pick<ReturnType<typeof useLaidOver>, 'step'>,
  places: readonly Extent[] | undefined,
  go: Go,
): Readonly<Record<string, () => void>> {
  return places ? { n: () => step(places, go, 1), N: () => step(places, go, -1) } : {};
}

/** Where the difference is that was gone to last. */
export function AtPlace({
  place,
  view,
}: {
  readonly place: Extent | undefined;
  readonly view: View;
}): React.JSX.Element | null {
  if (!place) return null;
  const [left, top] = toScreen(view, [place.low[0], place.high[1]]);
  const [right, bottom] = toScreen(view, [place.high[0], place.low[1]]);
  return (
    <rect
      {...{ x: left - 6, y: top - 6, width: right - left + 12, height: bottom - top + 12, rx: 4 }}
      fill="none"
      stroke="#4a575e"
      strokeDasharray="4 4"
    />
  );
}

export interface LayOverProps extends ReturnType<typeof useLaidOver> {
  readonly item: ItemView;
  readonly places: readonly Extent[] | undefined;
  readonly go: Go;
}

export function LayOver({
  item,
  version,
  lay,
  places,
  at,
  step,
  go,
}: LayOverProps): React.JSX.Element | null {
  const others = item.versions.filter((each) => each.version !== item.shown);
  if (others.length === 0) return null;
  return (
    <Together>
      <Pick
        label="Lay over"
        options={[
          { key: '', text: 'nothing' },
          ...others.map((each) => ({ key: each.version, text: each.version })),
        ]}
        value={version}
        onChange={lay}
      />
      {places ? (
        <Steps
          {...{ at }}
          first={version}
          second={item.shown}
          count={places.length}
          next="Next difference (N)"
          step={(by) => step(places, go, by)}
        />
      ) : null}
    </Together>
  );
}

export interface StepsProps {
  /** Versions that are laid over each other. */
  readonly first: string;
  readonly second: string;
  readonly count: number;
  /** -1 where one has gone to none yet. */
  readonly at: number;
  readonly step: (by: 1 | -1) => void;
  readonly next?: string;
}

/** Which colour is which version, and the way from one difference to the next. */
export function Steps({
  first,
  second,
  count,
  at,
  step,
  next = 'Next difference',
}: StepsProps): React.JSX.Element {
  return (
    <>
      <Key style={{ color: OVERLAID.first }}>— only {first}</Key>
      <Key style={{ color: OVERLAID.second }}>— only {second}</Key>
      <Button onPress={() => step(1)} isDisabled={count === 0}>
        {next}
      </Button>
      <Button onPress={() => step(-1)} isDisabled={count === 0}>
        Back
      </Button>
      {count > 0 && at >= 0 ? (
        <Soft role="status">
          {at + 1} of {count}
        </Soft>
      ) : null}
    </>
  );
}

const Together = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 8px;
`;
/** On white, as the lines are that it speaks of. */
const Key = styled.span`
  padding: 0 6px;
  border: 1px solid ${colour.line};
  border-radius: 3px;
  background: #ffffff;
`;
