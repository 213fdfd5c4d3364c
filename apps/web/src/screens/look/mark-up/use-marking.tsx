/** Drawing on a flat picture: the tool, what is drawn just now, and all that was drawn, over the board. */
import type { MarkKind, MarkTone, MarkUpRow } from '@stem-trace/contract';
import type { Extent, Spot } from '@stem-trace/core/sheet';
import { useMemo, useRef, useState } from 'react';
import type { BoardTool } from '../../../pictures/board/board.js';
import { toPicture, toScreen, type View } from '../../../pictures/board/view.js';
import { MarkShape } from './mark-shape.js';
import type { Marks } from './use-marks.js';

/** Drawn, and waiting for its words. */
export interface Draft {
  readonly kind: MarkKind;
  readonly spots: readonly Spot[];
}

export interface MarkingOptions {
  readonly marks: Marks;
  /** Sheet or page that is shown. */
  readonly sheet: string;
  readonly sayLength: (units: number) => string;
  /** What the pointer catches at a spot. */
  readonly catchSpot: (spot: Spot) => Spot;
}

export type Marking = ReturnType<typeof useMarking>;

/** The pen leaves a spot after so many pixels. */
const PEN_PX = 3;
const STILL_PX = 4;

export function useMarking({ marks, sheet, sayLength, catchSpot }: MarkingOptions) {
  const [kind, choose] = useState<MarkKind>();
  const [tone, setTone] = useState<MarkTone>('change');
  const [draft, setDraft] = useState<Draft>();
  const [chosen, choosing] = useState('');
  const view = useRef<View>(undefined);
  const rows = marks.answer?.rows ?? [];
  const here = rows.filter((row) => row.sheet === sheet);
  const begin = (next: MarkKind | undefined): void => {
    setDraft(undefined);
    choose(next === kind ? undefined : next);
  };
  const finish = async (words: string): Promise<void> => {
    if (!draft) return;
    const said =
      draft.kind === 'measure' ? [lengthOf(draft, sayLength), words].filter(Boolean).join(' ') : words;
    const id = await marks.add({ ...draft, tone, sheet, words: said });
    if (id === undefined) return;
    setDraft(undefined);
    choose(undefined);
    choosing(id);
  };
  const tool = useTool(kind, draft !== undefined, { setDraft, catchSpot, view });
  const inTheMiddle = (): void => {
    if (kind && view.current) setDraft({ kind, spots: middleSpots(kind, view.current) });
  };
  return {
    ...{ kind, begin, tone, setTone, draft, finish, inTheMiddle, chosen, choosing, rows, here, marks },
    cancel: () => {
      setDraft(undefined);
      choose(undefined);
    },
    tool,
    closed: marks.answer?.closed ?? '',
    over: (now: View): React.ReactNode => {
      view.current = now;
      return (
        <>
          {here.map((row) => (
            <Moved
              key={row.id}
              {...{ row, view: now, marks }}
              number={rows.indexOf(row) + 1}
              isChosen={row.id === chosen}
              onChoose={() => choosing(row.id)}
            />
          ))}
          {draft ? (
            <MarkShape
              {...{ kind: draft.kind, tone }}
              spots={draft.spots.map((spot) => toScreen(now, spot))}
              words={draft.kind === 'measure' ? lengthOf(draft, sayLength) : ''}
              isChosen
            />
          ) : null}
        </>
      );
    },
  };
}

/** The same tool while something is drawn with it, whatever others do meanwhile. */
function useTool(
  kind: MarkKind | undefined,
  isWaiting: boolean,
  { setDraft, catchSpot, view }: ToolParts,
): BoardTool | undefined {
  const caught = useRef(catchSpot);
  caught.current = catchSpot;
  return useMemo(
    () =>
      kind && !isWaiting
        ? toolFor(kind, { setDraft, catchSpot: (spot) => caught.current(spot), view })
        : undefined,
    [kind, isWaiting, setDraft, view],
  );
}

function lengthOf({ spots }: Draft, say: (units: number) => string): string {
  const [from = [0, 0], to = from] = spots;
  return say(Math.hypot(to[0] - from[0], to[1] - from[1]));
}

interface ToolParts {
  readonly setDraft: (draft: Draft | undefined) => void;
  readonly catchSpot: (spot: Spot) => Spot;
  readonly view: React.RefObject<View | undefined>;
}

/** Draws from where the pointer goes down to where it goes up; while it moves, what will be is shown. */
function toolFor(kind: MarkKind, { setDraft, catchSpot, view }: ToolParts): BoardTool {
  let spots: Spot[] = [];
  const caught = kind === 'measure' ? catchSpot : (spot: Spot): Spot => spot;
  const pixels = (from: Spot, to: Spot): number =>
    Math.hypot(to[0] - from[0], to[1] - from[1]) * (view.current?.scale ?? 1);
  const preview = document.createElementNS('http://www.w3.org/2000/svg', 'path');
  const draw = (): void => {
    const now = view.current;
    if (now)
      preview.setAttribute(
        'd',
        spots.map((spot, at) => `${at === 0 ? 'M' : 'L'}${toScreen(now, spot).join(' ')}`).join(''),
      );
  };
  return {
    cursor: 'crosshair',
    down: (spot, event) => {
      spots = [caught(spot)];
      Object.assign(preview.style, { fill: 'none', stroke: '#96470f', strokeWidth: '2' });
      event.currentTarget.querySelector('svg')?.append(preview);
    },
    move: (spot) => {
      const last = spots.at(-1);
      if (!last) return;
      if (kind !== 'pen') spots = [spots[0] ?? spot, spot];
      else if (pixels(last, spot) >= PEN_PX && spots.length < 4000) spots.push(spot);
      draw();
    },
    cancel: () => {
      preview.remove();
      spots = [];
    },
    up: (spot) => {
      preview.remove();
      const [first] = spots;
      spots = kind === 'pen' ? spots : [first ?? spot, caught(spot)];
      const isPoint = kind === 'pin' || kind === 'text';
      const isDrawn =
        first !== undefined && (kind === 'pen' ? spots.length > 1 : pixels(first, spot) > STILL_PX);
      if (isPoint) setDraft({ kind, spots: [first ?? spot] });
      else if (isDrawn) setDraft({ kind, spots });
      spots = [];
    },
  };
}

/** For whoever has no pointer: in the middle of what is seen, to be moved by arrows. */
function middleSpots(kind: MarkKind, view: View): readonly Spot[] {
  const [width, height] = view.size;
  const at = (x: number, y: number): Spot => toPicture(view, [width * x, height * y]);
  if (kind === 'pin' || kind === 'text') return [at(0.5, 0.5)];
  return kind === 'arrow' ? [at(0.5, 0.5), at(0.6, 0.4)] : [at(0.4, 0.4), at(0.6, 0.6)];
}

interface MovedProps {
  readonly row: MarkUpRow;
  readonly view: View;
  readonly marks: Marks;
  readonly number: number;
  readonly isChosen: boolean;
  readonly onChoose: () => void;
}

/** One's own can be taken elsewhere. */
function Moved({ row, view, marks, number, isChosen, onChoose }: MovedProps): React.JSX.Element {
  const [by, setBy] = useState<Spot>([0, 0]);
  const isClosed = marks.answer?.closed !== '' || row.version !== marks.answer.version;
  const down = (event: React.PointerEvent): void => {
    event.stopPropagation();
    onChoose();
    if (!row.isMine || isClosed) return;
    const target = event.currentTarget;
    const from: Spot = [event.clientX, event.clientY];
    let offset: Spot = [0, 0];
    target.setPointerCapture(event.pointerId);
    const move = ({ clientX, clientY }: PointerEvent): void => {
      offset = [(clientX - from[0]) / view.scale, -(clientY - from[1]) / view.scale];
      setBy(offset);
    };
    const up = (): void => {
      target.removeEventListener('pointermove', move as EventListener);
      const far = Math.hypot(...offset) * view.scale > STILL_PX;
      const spots = row.spots.map(([x = 0, y = 0]): Spot => [x + offset[0], y + offset[1]]);
      void (far ? marks.change(row, { spots }) : Promise.resolve()).then(() => setBy([0, 0]));
    };
    target.addEventListener('pointermove', move as EventListener);
    target.addEventListener('pointerup', up, { once: true });
  };
  return (
    <MarkShape
      {...{ kind: row.kind, tone: row.tone, words: row.words, number, isChosen }}
      isSettled={row.settledAt !== null}
      spots={row.spots.map(([x = 0, y = 0]) => toScreen(view, [x + by[0], y + by[1]]))}
      onPointerDown={down}
    />
  );
}

/** Box around a mark, to go to. */
export function extentOfMark({ spots }: MarkUpRow): Extent {
  const [xs, ys] = [spots.map(([x = 0]) => x), spots.map(([, y = 0]) => y)];
  const size = Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys), 30);
  const [x, y] = [(Math.max(...xs) + Math.min(...xs)) / 2, (Math.max(...ys) + Math.min(...ys)) / 2];
  return { low: [x - size / 2, y - size / 2], high: [x + size / 2, y + size / 2] };
}
