/** Both models in one picture; the slider goes from the first alone over both to the second alone. */
import type { SceneAnswer } from '@stem-trace/contract';
import type { Deviations } from '../../../workers/deviation.worker.js';
import { useEffect, useMemo, useRef } from 'react';
import styled from 'styled-components';
import { Over, PictureFrame } from '../../../pictures/picture-frame.js';
import { colour } from '../../../ui/theme.js';
import type { LookMesh } from '../model/look-mesh.js';
import type { LookStage } from '../model/look-stage.js';
import { useTurns } from '../model/over-model.js';
import { useStage } from '../model/use-stage.js';
import { looksOf, SAME_OPACITY } from './appearance.js';
import type { DifferenceRow } from './difference-list.js';
import { together, type Compared } from './pairs.js';
import { mostOf, withColours } from './use-deviation.js';

export interface ComparedSides {
  readonly first: { readonly scene: SceneAnswer; readonly loaded: readonly (LookMesh | undefined)[] };
  readonly second: { readonly scene: SceneAnswer; readonly loaded: readonly (LookMesh | undefined)[] };
  readonly found: Compared;
  readonly rows: readonly DifferenceRow[];
  readonly chosen: DifferenceRow | undefined;
  readonly showsSame: boolean;
}

export interface OverViewProps extends ComparedSides {
  /** 0 is the first alone, 1 the second. */
  readonly share: number;
  readonly deviation: Deviations | undefined;
}

export function OverView(props: OverViewProps): React.JSX.Element {
  const { first, second, found, rows, chosen, showsSame, share, deviation } = props;
  const box = useRef<HTMLDivElement>(null);
  const shift = first.scene.nodes.length;
  const scene = useMemo(() => together(first.scene, second.scene), [first, second]);
  const loaded = useMemo(() => {
    const shaded = (side: 'first' | 'second', wanted: number | undefined) =>
      (side === 'first' ? first : second).loaded.map((mesh, at) =>
        mesh && deviation && at === wanted ? withColours(mesh, deviation[side], mostOf(deviation)) : mesh,
      );
    return [...shaded('first', chosen?.firstMesh), ...shaded('second', chosen?.secondMesh)];
  }, [first, second, deviation, chosen?.firstMesh, chosen?.secondMesh]);
  const stage = useStage(box, scene, loaded);
  const looks = useMemo(
    () => ({ first: looksOf(found, 'first'), second: looksOf(found, 'second') }),
    [found],
  );
  const chosenNodes = useMemo(() => nodesOf(chosen, shift), [chosen, shift]);
  useEffect(() => {
    const [before, after] = [Math.min(1, 2 - 2 * share), Math.min(1, 2 * share)];
    const shows = (node: number): number => {
      const isFirst = node < shift;
      const look = isFirst ? looks.first.get(node) : looks.second.get(node - shift);
      // What is the same is drawn once.
      if (look?.kind === 'same') return isFirst && showsSame ? SAME_OPACITY : 0;
      const isMeasured = deviation !== undefined && chosenNodes.has(node);
      // One of them, with its colours: in the middle the second.
      if (isMeasured) return isFirst === share < 0.5 ? 1 : 0;
      return isFirst ? before : after;
    };
    stage?.show({
      ...{ selected: chosenNodes, opacityOf: shows },
      colourOf: (node) => {
        if (deviation && chosenNodes.has(node)) return undefined;
        return (node < shift ? looks.first.get(node) : looks.second.get(node - shift))?.colour;
      },
    });
  }, [stage, looks, shift, share, showsSame, deviation, chosenNodes]);
  useEffect(() => {
    if (chosenNodes.size > 0) stage?.fitWithin();
  }, [stage, chosenNodes]);
  return (
    <PictureFrame ref={box} data-large role="img" aria-label="Both in three dimensions" tabIndex={0}>
      <Ways stage={stage} rows={rows} />
    </PictureFrame>
  );
}

function nodesOf(row: DifferenceRow | undefined, shift: number): ReadonlySet<number> {
  const { firstNode, secondNode } = row ?? {};
  return new Set([
    ...(firstNode === undefined ? [] : [firstNode]),
    ...(secondNode === undefined ? [] : [secondNode + shift]),
  ]);
}

/** Lines from where what moved stood to where it stands. */
function Ways({
  stage,
  rows,
}: {
  readonly stage: LookStage | undefined;
  readonly rows: readonly DifferenceRow[];
}): React.JSX.Element | null {
  useTurns(stage);
  if (!stage) return null;
  return (
    <Over aria-hidden>
      {rows.map(({ key, way }) => {
        const [from, to] = way ? [stage.screenOf(way[0]), stage.screenOf(way[1])] : [];
        return from && to ? (
          <Way key={key}>
            <path d={`M${from.join(' ')}L${to.join(' ')}`} />
            <circle cx={to[0]} cy={to[1]} r={4} />
          </Way>
        ) : null;
      })}
    </Over>
  );
}

const Way = styled.g`
  pointer-events: none;
  path {
    stroke: ${colour.changed};
    stroke-width: 2;
    stroke-dasharray: 6 3;
    fill: none;
  }
  circle {
    fill: ${colour.changed};
  }
`;
