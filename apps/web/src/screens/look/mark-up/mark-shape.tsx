/** One mark as it lies over a picture. */
import type { MarkKind, MarkTone } from '@stem-trace/contract';
import type { Spot } from '@stem-trace/core/sheet';
import styled from 'styled-components';
import { TONES } from './tones.js';

export interface MarkShapeProps {
  readonly kind: MarkKind;
  readonly tone: MarkTone;
  /** In pixels of the screen. */
  readonly spots: readonly Spot[];
  readonly words: string;
  /** Its place in the list; none while it is drawn. */
  readonly number?: number;
  readonly isSettled?: boolean;
  readonly isChosen?: boolean;
  readonly onPointerDown?: (event: React.PointerEvent) => void;
}

export function MarkShape(props: MarkShapeProps): React.JSX.Element {
  const { kind, tone, spots, words, number, isSettled = false, isChosen = false, onPointerDown } = props;
  const { colour, sign } = TONES[tone];
  const at = signSpot(kind, spots);
  return (
    <Shape
      style={{ color: colour, opacity: isSettled ? 0.45 : 1 }}
      data-chosen={isChosen || undefined}
      onPointerDown={onPointerDown}
    >
      <path d={outline(kind, spots)} className="reach" />
      <path d={outline(kind, spots)} className="line" strokeDasharray={isSettled ? '3 3' : undefined} />
      {kind === 'text' ? (
        <text x={at[0] + 14} y={at[1] + 5}>
          {words}
        </text>
      ) : null}
      {kind === 'measure' && words !== '' ? (
        <text
          x={(spots[0]?.[0] ?? 0) / 2 + (spots[1]?.[0] ?? 0) / 2 + 6}
          y={(spots[0]?.[1] ?? 0) / 2 + (spots[1]?.[1] ?? 0) / 2 - 6}
        >
          {words}
        </text>
      ) : null}
      {number === undefined ? null : (
        <g transform={`translate(${at[0]} ${at[1]})`}>
          <path d={sign} className="sign" />
          <text className="number" textAnchor="middle" y={4}>
            {number}
          </text>
        </g>
      )}
    </Shape>
  );
}

/** Where the sign with the number stands. */
function signSpot(kind: MarkKind, spots: readonly Spot[]): Spot {
  const [first = [0, 0], second] = spots;
  if ((kind === 'box' || kind === 'cloud') && second)
    return [Math.min(first[0], second[0]), Math.min(first[1], second[1])];
  // An arrow says something at its end, about what it points at.
  return kind === 'arrow' && second ? second : first;
}

const AT: readonly [Spot, Spot] = [
  [0, 0],
  [0, 0],
];

function outline(kind: MarkKind, spots: readonly Spot[]): string {
  const [[x1, y1], [x2, y2]] = [spots[0] ?? AT[0], spots[1] ?? spots[0] ?? AT[1]];
  switch (kind) {
    case 'pen':
      return spots.map(([x, y], at) => `${at === 0 ? 'M' : 'L'}${x} ${y}`).join('');
    case 'line':
      return `M${x1} ${y1}L${x2} ${y2}`;
    case 'arrow':
      return `M${x2} ${y2}L${x1} ${y1}${head([x2, y2], [x1, y1])}`;
    case 'measure':
      return `M${x1} ${y1}L${x2} ${y2}${tick([x1, y1], [x2, y2])}${tick([x2, y2], [x1, y1])}`;
    case 'box':
      return `M${x1} ${y1}H${x2}V${y2}H${x1}Z`;
    case 'cloud':
      return cloud([Math.min(x1, x2), Math.min(y1, y2)], [Math.max(x1, x2), Math.max(y1, y2)]);
    case 'text':
    case 'pin':
      return `M${x1 - 4} ${y1}A4 4 0 1 0 ${x1 + 4} ${y1}A4 4 0 1 0 ${x1 - 4} ${y1}`;
  }
}

const HEAD_PX = 12;

function head(from: Spot, to: Spot): string {
  const angle = Math.atan2(to[1] - from[1], to[0] - from[0]);
  return [angle + 2.7, angle - 2.7]
    .map(
      (each) => `M${to[0]} ${to[1]}L${to[0] + HEAD_PX * Math.cos(each)} ${to[1] + HEAD_PX * Math.sin(each)}`,
    )
    .join('');
}

function tick(at: Spot, other: Spot): string {
  const angle = Math.atan2(other[1] - at[1], other[0] - at[0]) + Math.PI / 2;
  const [x, y] = [6 * Math.cos(angle), 6 * Math.sin(angle)];
  return `M${at[0] - x} ${at[1] - y}L${at[0] + x} ${at[1] + y}`;
}

const BULGE_PX = 16;

/** Bulges around a box, each as wide as about the next. */
function cloud(low: Spot, high: Spot): string {
  const corners: readonly Spot[] = [low, [high[0], low[1]], high, [low[0], high[1]], low];
  let path = `M${low[0]} ${low[1]}`;
  for (let side = 0; side < 4; side++) {
    const [from, to] = [corners[side] ?? low, corners[side + 1] ?? low];
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
    const count = Math.min(Math.max(1, Math.round(length / BULGE_PX)), 200);
    const radius = length / count / 1.7;
    for (let each = 1; each <= count; each++)
      path += `A${radius} ${radius} 0 0 1 ${from[0] + ((to[0] - from[0]) * each) / count} ${from[1] + ((to[1] - from[1]) * each) / count}`;
  }
  return `${path}Z`;
}

const Shape = styled.g`
  cursor: pointer;
  .line {
    fill: none;
    stroke: currentcolor;
    stroke-width: 2;
    stroke-linecap: round;
    stroke-linejoin: round;
  }
  .reach {
    fill: none;
    stroke: transparent;
    stroke-width: 12;
  }
  .sign {
    fill: currentcolor;
    stroke: #ffffff;
    stroke-width: 1.5;
  }
  text {
    fill: currentcolor;
    font-size: 13px;
    font-weight: 600;
    paint-order: stroke;
    stroke: #ffffff;
    stroke-width: 3px;
  }
  .number {
    fill: #ffffff;
    stroke: none;
    font-size: 11px;
  }
  &[data-chosen] .line {
    stroke-width: 3.4;
  }
  &[data-chosen] .sign {
    stroke: #14191c;
  }
`;
