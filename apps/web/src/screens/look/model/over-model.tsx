/** What lies over the picture of a model: measured lines, handles of sections, and which way is up. */
import type { Point, SectionPlane } from '@stem-trace/core/look';
import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { Over } from '../../../pictures/picture-frame.js';
import { useShowing } from '../../../ui/showing.js';
import { colour } from '../../../ui/theme.js';
import type { LookStage } from './look-stage.js';
import { sayShort } from './measured.js';
import { dot, forward, planeAt } from './section-plane.js';
import type { Looking } from './use-looking.js';

/** Draws anew with every turn of the picture. */
export function useTurns(stage: LookStage | undefined): void {
  const [, redraw] = useState(0);
  useEffect(() => stage?.onDrawn(() => redraw((count) => count + 1)), [stage]);
}

export function OverModel(looking: Looking): React.JSX.Element | null {
  const { stage, state, picked } = looking;
  const { length } = useShowing();
  useTurns(stage);
  if (!stage) return null;
  const isApart = state.spread.amount > 0;
  const lines = [
    ...state.measures,
    ...(picked.length === 0
      ? []
      : [{ words: sayShort(picked, length), spots: picked.map(({ point }) => point) }]),
  ];
  return (
    <Over aria-hidden>
      {/* Where all is taken apart, what was measured is somewhere else. */}
      {isApart
        ? null
        : lines.map(({ words, spots }, at) => <MeasureLine key={at} {...{ stage, words, spots }} />)}
      {state.sections.map((section, at) => (
        <Handle key={at} {...looking} section={section} at={at} />
      ))}
      <Sign stage={stage} />
    </Over>
  );
}

function MeasureLine({
  stage,
  words,
  spots,
}: {
  readonly stage: LookStage;
  readonly words: string;
  readonly spots: readonly Point[];
}): React.JSX.Element | null {
  const seen = spots.flatMap((spot) => {
    const at = stage.screenOf(spot);
    return at ? [at] : [];
  });
  const [first, second = first] = seen;
  if (!first || !second || seen.length < spots.length) return null;
  const label = words.split(': ').at(-1)?.split(' (')[0]?.split(',')[0] ?? '';
  return (
    <Drawn>
      {seen.length > 1 ? <path d={`M${seen.map((at) => at.join(' ')).join('L')}`} /> : null}
      {seen.map(([x, y], at) => (
        <circle key={at} cx={x} cy={y} r={3.5} />
      ))}
      <text x={(first[0] + second[0]) / 2 + 8} y={(first[1] + second[1]) / 2 - 8}>
        {label}
      </text>
    </Drawn>
  );
}

/** How long a handle is in the picture, pixels. */
const HANDLE = 54;

/** An arrow out of the middle of a section, by which it is dragged. */
function Handle({
  stage,
  state,
  change,
  section,
  at,
}: Looking & { readonly section: SectionPlane; readonly at: number }): React.JSX.Element | null {
  const dragged = useRef<{ readonly from: readonly [number, number]; readonly place: number }>(undefined);
  const along = forward(section.normal);
  const middle = stage && middleOn(stage, section);
  const [foot, ahead] = [middle && stage.screenOf(middle), middle && stage.screenOf(moved(middle, along, 1))];
  if (!stage || !foot || !ahead) return null;
  // Pixels of one millimetre along the normal, as it is seen from here.
  const per = [ahead[0] - foot[0], ahead[1] - foot[1]] as const;
  const length = Math.hypot(...per);
  const way = length > 1e-9 ? ([per[0] / length, per[1] / length] as const) : ([0, -1] as const);
  const tip = [foot[0] + way[0] * HANDLE, foot[1] + way[1] * HANDLE] as const;
  const drag = ({ clientX, clientY }: React.PointerEvent): void => {
    if (!dragged.current || length < 1e-9) return;
    const { from, place } = dragged.current;
    const mm = ((clientX - from[0]) * way[0] + (clientY - from[1]) * way[1]) / length;
    const isTurned = dot(section.normal, along) < 0;
    const plane = planeAt(along, place + mm, isTurned);
    change({ sections: state.sections.map((each, other) => (other === at ? plane : each)) });
  };
  return (
    <Grip
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        stage.turns(false);
        dragged.current = { from: [event.clientX, event.clientY], place: dot(section.point, along) };
      }}
      onPointerMove={drag}
      onPointerUp={() => {
        dragged.current = undefined;
        stage.turns(true);
      }}
      onClick={(event) => event.stopPropagation()}
    >
      <path d={`M${foot.join(' ')}L${tip.join(' ')}`} />
      <rect x={foot[0] - 4} y={foot[1] - 4} width={8} height={8} />
      <circle cx={tip[0]} cy={tip[1]} r={7} />
    </Grip>
  );
}

function middleOn(stage: LookStage, { point, normal }: SectionPlane): Point {
  const { min, max } = stage.boxOf();
  const middle: Point = [(min.x + max.x) / 2, (min.y + max.y) / 2, (min.z + max.z) / 2];
  const off = middle.reduce(
    (sum, value, axis) => sum + (value - (point[axis] ?? 0)) * (normal[axis] ?? 0),
    0,
  );
  return moved(middle, normal, -off);
}

function moved(from: Point, along: Point, by: number): Point {
  return [from[0] + along[0] * by, from[1] + along[1] * by, from[2] + along[2] * by];
}

const AXES = [
  { key: 'up', axis: [0, 0, 1] },
  { key: 'front', axis: [0, -1, 0] },
  { key: 'right', axis: [1, 0, 0] },
] as const;
const SIGN = { x: 44, y: 46, length: 26 } as const;

/** Which way is up, to the front and to the right, in the lower left corner. */
function Sign({ stage }: { readonly stage: LookStage }): React.JSX.Element {
  const turned = AXES.map(({ key, axis }) => ({ key, at: stage.turned(axis) }));
  turned.sort((a, b) => a.at[2] - b.at[2]);
  return (
    <Corner>
      <g transform={`translate(${SIGN.x} ${SIGN.y})`}>
        {turned.map(({ key, at: [x, y, towards] }) => (
          <g key={key} opacity={towards < -0.15 ? 0.5 : 1}>
            <path d={`M0 0L${x * SIGN.length} ${-y * SIGN.length}`} />
            <text x={x * (SIGN.length + 10)} y={-y * (SIGN.length + 10) + 3.5}>
              {key}
            </text>
          </g>
        ))}
      </g>
    </Corner>
  );
}

const Drawn = styled.g`
  pointer-events: none;
  path {
    fill: none;
    stroke: ${colour.ink};
    stroke-width: 1.5;
    stroke-dasharray: 5 3;
  }
  circle {
    fill: ${colour.raised};
    stroke: ${colour.ink};
    stroke-width: 1.5;
  }
  text {
    font-size: 12px;
    font-weight: 600;
    fill: ${colour.ink};
    stroke: ${colour.raised};
    stroke-width: 3px;
    paint-order: stroke;
  }
`;
const Grip = styled.g`
  cursor: grab;
  touch-action: none;
  path,
  rect,
  circle {
    stroke: ${colour.petrol};
    stroke-width: 2;
    fill: ${colour.petrolSoft};
  }
`;
const Corner = styled.g`
  pointer-events: none;
  path {
    stroke: ${colour.inkSoft};
    stroke-width: 1.5;
  }
  text {
    font-size: 10px;
    text-anchor: middle;
    fill: ${colour.inkSoft};
    stroke: ${colour.raised};
    stroke-width: 2.5px;
    paint-order: stroke;
  }
`;
