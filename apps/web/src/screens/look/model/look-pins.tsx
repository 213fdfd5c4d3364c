/** Mark-up in three dimensions: pins that stick to where they were put and turn with it, and their list. */
import { MARK_TONES, type MarkTone, type MarkUpRow } from '@stem-trace/contract';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { Over } from '../../../pictures/picture-frame.js';
import { Button, Choice, Soft } from '../../../ui/controls.js';
import type { LookStage } from './look-stage.js';
import type { Measured } from './measured.js';
import { MarkList, type Marked } from '../mark-up/mark-list.js';
import { MarkShape } from '../mark-up/mark-shape.js';
import { TONES } from '../mark-up/tones.js';
import { useMarks } from '../mark-up/use-marks.js';

/** Name under which marks of a model are kept. */
const MODEL = 'model';

type Point = Measured['point'];

export interface Pins extends Marked {
  readonly tone: MarkTone;
  readonly setTone: (tone: MarkTone) => void;
  /** Begins a pin where was clicked last. */
  readonly begin: () => void;
  readonly point: Point | undefined;
  /** Where the pin that waits for its words stands. */
  readonly pinned: Point | undefined;
}

/** @param item `NUMBER@B/3` */
export function usePins(item: string, picked: readonly Measured[]): Pins {
  const marks = useMarks(item);
  const [tone, setTone] = useState<MarkTone>('change');
  const [pinned, pin] = useState<Point>();
  const [chosen, choosing] = useState('');
  const point = picked.at(-1)?.point;
  return {
    ...{ marks, tone, setTone, chosen, choosing, point, pinned },
    rows: marks.answer?.rows ?? [],
    closed: marks.answer?.closed ?? '',
    draft: pinned && { kind: 'pin' },
    begin: () => pin(point),
    cancel: () => pin(undefined),
    finish: async (words) => {
      if (!pinned) return;
      const id = await marks.add({ kind: 'pin', tone, sheet: MODEL, spots: [[...pinned]], words });
      if (id === undefined) return;
      pin(undefined);
      choosing(id);
    },
  };
}

/** Pins over the picture, moved with every turn of it. */
export function PinsOver({
  pins,
  stage,
}: {
  readonly pins: Pins;
  readonly stage: LookStage | undefined;
}): React.JSX.Element {
  const [, redraw] = useState(0);
  useEffect(() => stage?.onDrawn(() => redraw((count) => count + 1)), [stage]);
  const shape = (spot: readonly number[], rest: Omit<Parameters<typeof MarkShape>[0], 'kind' | 'spots'>) => {
    const [x = 0, y = 0, z = 0] = spot;
    const at = stage?.screenOf([x, y, z]);
    return at ? <MarkShape kind="pin" spots={[at]} {...rest} /> : null;
  };
  return (
    <Over>
      {pins.rows.map((row, index) =>
        row.sheet === MODEL && row.spots[0] ? (
          <g key={row.id} aria-hidden>
            {shape(row.spots[0], {
              ...{ tone: row.tone, words: row.words, number: index + 1, isChosen: row.id === pins.chosen },
              ...{ isSettled: row.settledAt !== null, onPointerDown: () => pins.choosing(row.id) },
            })}
          </g>
        ) : null,
      )}
      {pins.pinned ? shape(pins.pinned, { tone: pins.tone, words: '', isChosen: true }) : null}
    </Over>
  );
}

export function PinsPanel({
  pins,
  stage,
}: {
  readonly pins: Pins;
  readonly stage: LookStage | undefined;
}): React.JSX.Element {
  const show = ({ sheet, spots: [spot] }: MarkUpRow): void => {
    const [x, y, z] = spot ?? [];
    if (sheet === MODEL && x !== undefined && y !== undefined && z !== undefined)
      stage?.turnAround([x, y, z]);
  };
  return (
    <Panel aria-label="Drawn and written">
      <h2>Drawn and written</h2>
      {pins.closed === '' ? (
        <>
          <Choice
            label="What it is"
            options={MARK_TONES.map((key) => ({ key, text: TONES[key].says }))}
            value={pins.tone}
            onChange={pins.setTone}
          />
          <div>
            <Button onPress={pins.begin} isDisabled={!pins.point}>
              Pin where you clicked (N)
            </Button>
          </div>
        </>
      ) : (
        <Soft>{pins.closed}</Soft>
      )}
      <MarkList marking={pins} show={show} begins="Click at a face, then pin something to it." />
    </Panel>
  );
}

const Panel = styled.section`
  display: flex;
  flex-direction: column;
  gap: 6px;
`;
