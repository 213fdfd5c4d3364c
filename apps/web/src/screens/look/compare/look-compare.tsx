/** Two models in one picture: side by side under one camera, or laid over each other with a slider. */
import type { LensText, SceneAnswer, TraitsAnswer } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { useChangeSearch } from '../../../frame/addresses.js';
import { Button, Choice, Mono, Soft, Trouble } from '../../../ui/controls.js';
import { Tick } from '../../../ui/tick.js';
import type { Deviations } from '../../../workers/deviation.worker.js';
import { useShowing } from '../../../ui/showing.js';
import type { LookMesh } from '../model/look-mesh.js';
import { sayLength, sayTolerance } from '../model/measured.js';
import { useMeshes } from '../model/use-meshes.js';
import { sceneQuery, traitsQuery } from '../scene-queries.js';
import { BesideView } from './beside-view.js';
import { DifferenceList, rowsOf, type DifferenceRow } from './difference-list.js';
import { OverView } from './over-view.js';
import { compared } from './pairs.js';
import { mostOf, SCALE_CSS, useDeviation } from './use-deviation.js';

export interface LookCompareProps {
  /** `NUMBER@B/3`, the first of the two. */
  readonly item: string;
  /** `NUMBER` or `NUMBER@B/3`. */
  readonly against: string;
  readonly lens: LensText;
}

interface Side {
  readonly scene: SceneAnswer;
  readonly traits: TraitsAnswer | undefined;
  readonly loaded: readonly (LookMesh | undefined)[];
}

export default function LookCompare({ item, against, lens }: LookCompareProps): React.JSX.Element {
  const [first, second] = [useSide(item, lens), useSide(against, lens)];
  const error = first.error ?? second.error;
  if (error) return <Trouble>{error.message}</Trouble>;
  if (!first.side || !second.side) return <Soft role="status">{first.says || second.says}</Soft>;
  return <Comparing {...{ item, against }} first={first.side} second={second.side} />;
}

function useSide(item: string, lens: LensText) {
  const scene = useQuery(sceneQuery(item, lens));
  const traits = useQuery(traitsQuery(item, lens));
  const placed = scene.data?.meshes ?? NONE;
  const { loaded, done } = useMeshes(placed);
  const isWhole = scene.data !== undefined && !traits.isPending && done === placed.length;
  const side = useMemo(
    (): Side | undefined =>
      scene.data && isWhole ? { scene: scene.data, traits: traits.data, loaded } : undefined,
    [scene.data, traits.data, loaded, isWhole],
  );
  return {
    side,
    error: scene.error,
    says: `Making the picture: ${done} of ${placed.length} parts of ${item}`,
  };
}

const NONE: SceneAnswer['meshes'] = [];

const MODES = [
  { key: 'over', text: 'One over the other' },
  { key: 'beside', text: 'Side by side' },
] as const;
type Mode = (typeof MODES)[number]['key'];

interface ComparingProps {
  readonly item: string;
  readonly against: string;
  readonly first: Side;
  readonly second: Side;
}

function Comparing({ item, against, first, second }: ComparingProps): React.JSX.Element {
  const changeSearch = useChangeSearch();
  const [mode, setMode] = useState<Mode>('over');
  const [share, slide] = useState(0.5);
  const [showsSame, showSame] = useState(true);
  const [chosen, choose] = useState<DifferenceRow>();
  const found = useMemo(() => compared(first, second), [first, second]);
  const rows = useMemo(
    () => rowsOf(found, { first: first.scene, second: second.scene }),
    [found, first, second],
  );
  const meshes = meshesOf(chosen, { first, second });
  const deviation = useDeviation(chosen ? `${chosen.firstFile} ${chosen.secondFile}` : '', meshes);
  const sides = { first, second, found, rows, chosen };
  return (
    <Parts>
      <Line role="toolbar" aria-label="The comparison">
        <Soft>
          First <Mono>{item}</Mono>, second <Mono>{against}</Mono>
        </Soft>
        <Choice<Mode> label="How they are shown" options={MODES} value={mode} onChange={setMode} />
        {mode === 'over' ? (
          <label>
            First{' '}
            <input
              type="range"
              aria-label="From the first to the second"
              min={0}
              max={1}
              step={0.02}
              value={share}
              onChange={({ target }) => slide(Number(target.value))}
            />{' '}
            Second
          </label>
        ) : null}
        <Tick isSelected={showsSame} onChange={showSame}>
          What is the same, as glass
        </Tick>
        <Button onPress={() => changeSearch({ against: '' }, true)}>End comparing</Button>
      </Line>
      <DifferenceList rows={rows} onChoose={choose} />
      <Middle>
        {mode === 'over' ? (
          <OverView {...sides} {...{ share, showsSame, deviation }} />
        ) : (
          <BesideView {...sides} {...{ showsSame, item, against }} />
        )}
        <Told {...{ chosen, deviation }} isMeasured={meshes !== undefined} />
      </Middle>
    </Parts>
  );
}

function Told({
  chosen,
  deviation,
  isMeasured,
}: {
  readonly chosen: DifferenceRow | undefined;
  readonly deviation: Deviations | undefined;
  readonly isMeasured: boolean;
}): React.JSX.Element {
  const { length } = useShowing();
  return (
    <Said role="status">
      {chosen ? `${chosen.says}. ` : 'Choose a difference to go there. '}
      {deviation ? (
        <>
          Largest distance between both shapes ≈ {sayLength(mostOf(deviation), length)} (
          {sayTolerance(deviation.second.toleranceMm, length)}); on the first ≈{' '}
          {sayLength(deviation.first.mostMm, length)}, on the second ≈{' '}
          {sayLength(deviation.second.mostMm, length)}. <Scale aria-hidden /> from the same to the largest
        </>
      ) : isMeasured ? (
        'Measuring how far both shapes lie apart …'
      ) : null}
    </Said>
  );
}

/** Of what has another shape now. */
function meshesOf(
  row: DifferenceRow | undefined,
  { first, second }: Pick<ComparingProps, 'first' | 'second'>,
): { readonly first: LookMesh; readonly second: LookMesh } | undefined {
  if (!row?.isOther || row.firstMesh === undefined || row.secondMesh === undefined) return undefined;
  const [one, other] = [first.loaded[row.firstMesh], second.loaded[row.secondMesh]];
  return one && other ? { first: one, second: other } : undefined;
}

const Parts = styled.div`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(220px, 330px) minmax(0, 1fr);
  gap: 8px 10px;
`;
const Line = styled.div`
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
`;
const Middle = styled.div`
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
`;
const Said = styled.p`
  margin: 0;
  min-height: 2.8em;
`;
const Scale = styled.i`
  display: inline-block;
  width: 90px;
  height: 10px;
  border-radius: 3px;
  background: ${SCALE_CSS};
`;
