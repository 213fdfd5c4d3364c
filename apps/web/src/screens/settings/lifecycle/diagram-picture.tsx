/** A lifecycle as a picture: states in lanes by what is locked in them, an arrow for each way of a step. */
import type { Diagram, Lane } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import ElkConstructor, { type ElkNode } from 'elkjs/lib/elk-api.js';
import elkWorker from 'elkjs/lib/elk-worker.min.js?url';
import styled from 'styled-components';
import { Hint, Soft, Trouble } from '../../../ui/controls.js';
import { Glyph } from '../../../ui/glyphs.js';
import { colour, font } from '../../../ui/theme.js';
import { HEAD_PX, lifecycleGraph, pictureOf, STATE_SIZE, type LifecyclePicture } from './picture-layout.js';

const LANE_SAYS: Readonly<Record<Lane, string>> = {
  open: 'can be held and changed',
  'under check': 'stands still until decided',
  locked: 'goes on in a new revision',
  'out of use': 'nothing goes on from it',
};

let elk: InstanceType<typeof ElkConstructor> | undefined;

async function layOut(diagram: Diagram): Promise<LifecyclePicture> {
  elk ??= new ElkConstructor({ workerUrl: elkWorker, workerFactory: (url = elkWorker) => new Worker(url) });
  return pictureOf(diagram, (await elk.layout(lifecycleGraph(diagram))) as ElkNode);
}

export interface DiagramPictureProps {
  readonly diagram: Diagram;
  /** The step that is being looked at; its arrows stand out. */
  readonly step: string | undefined;
  readonly onStep: (step: string | undefined) => void;
}

export function DiagramPicture({ diagram, step, onStep }: DiagramPictureProps): React.JSX.Element {
  const picture = useQuery({
    queryKey: ['lifecycle picture', diagram],
    queryFn: () => layOut(diagram),
    placeholderData: (before) => before,
    staleTime: Infinity,
  });
  if (picture.error) return <Trouble>The picture could not be laid out: {picture.error.message}</Trouble>;
  if (!picture.data) return <Hint role="status">Drawing …</Hint>;
  return (
    <Scroll role="group" aria-label={`Picture of the lifecycle ${diagram.name}`}>
      <Canvas style={{ width: picture.data.width, height: picture.data.height }}>
        <Ground picture={picture.data} step={step} />
        <Plates picture={picture.data} diagram={diagram} />
        {picture.data.arrows.map(({ key, step: own, label, isConsequence }) => (
          <Name
            key={key}
            type="button"
            aria-pressed={own === step}
            style={{ left: label.x, top: label.y }}
            onClick={() => onStep(own === step ? undefined : own)}
          >
            {isConsequence ? 'older ones' : own}
          </Name>
        ))}
      </Canvas>
    </Scroll>
  );
}

/** Lanes, and the arrows over them. */
function Ground({
  picture: { lanes, arrows, width, height },
  step,
}: {
  readonly picture: LifecyclePicture;
  readonly step: string | undefined;
}): React.JSX.Element {
  return (
    <>
      {lanes.map(({ lane, x, width: wide }) => (
        <LaneBox key={lane} style={{ left: x, width: wide }}>
          <strong>{lane}</strong>
          <Soft>{LANE_SAYS[lane]}</Soft>
        </LaneBox>
      ))}
      <Arrows width={width} height={height} aria-hidden>
        <marker
          id="arrow-head"
          viewBox="0 0 8 8"
          refX="7"
          refY="4"
          markerWidth="8"
          markerHeight="8"
          markerUnits="userSpaceOnUse"
          orient="auto"
        >
          <path d="M0 0 8 4 0 8Z" />
        </marker>
        {arrows.map((arrow) => (
          <path
            key={arrow.key}
            d={arrow.way}
            data-shown={arrow.step === step || undefined}
            data-older={arrow.isConsequence || undefined}
            markerEnd="url(#arrow-head)"
          />
        ))}
      </Arrows>
    </>
  );
}

function Plates({
  picture,
  diagram,
}: {
  readonly picture: LifecyclePicture;
  readonly diagram: Diagram;
}): React.JSX.Element {
  const meaning = new Map(diagram.states.map((state) => [state.name, state]));
  return (
    <>
      {picture.states.map(({ name, x, y }) => {
        const state = meaning.get(name);
        return (
          <Plate key={name} style={{ left: x, top: y }} data-first={name === diagram.first || undefined}>
            {state ? <Glyph of={state.glyph} /> : null}
            <span>
              {name}
              {state?.isReleased ? <Soft>counts as released</Soft> : null}
            </span>
          </Plate>
        );
      })}
    </>
  );
}

const Scroll = styled.div`
  overflow-x: auto;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.raised};
  padding: 8px;
`;
const Canvas = styled.div`
  position: relative;
  margin: 0 auto;
`;
const LaneBox = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  background: ${colour.surface};
  border-radius: 4px;
  text-align: center;
  font-size: 11.5px;
  line-height: 15px;
  padding: 4px 2px;
  height: 100%;
  strong {
    display: block;
  }
  ${Soft} {
    font-size: 11px;
  }
  min-height: ${HEAD_PX}px;
`;
const Arrows = styled.svg`
  position: absolute;
  inset: 0;
  overflow: visible;
  path {
    fill: none;
    stroke: ${colour.inkSoft};
    stroke-width: 1.3;
    stroke-linejoin: round;
  }
  path[data-older] {
    stroke-dasharray: 4 3;
  }
  path[data-shown] {
    stroke: ${colour.petrol};
    stroke-width: 2.4;
  }
  marker path {
    fill: ${colour.inkSoft};
    stroke: none;
  }
`;
const Plate = styled.div`
  position: absolute;
  width: ${STATE_SIZE.width}px;
  height: ${STATE_SIZE.height}px;
  display: flex;
  align-items: center;
  gap: 7px;
  padding: 0 8px;
  white-space: nowrap;
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  background: ${colour.raised};
  line-height: 14px;
  &[data-first] {
    border-left: 4px solid ${colour.petrol};
  }
  ${Soft} {
    display: block;
    font-size: 11px;
  }
`;
const Name = styled.button`
  position: absolute;
  transform: translate(-50%, -50%);
  border: 0;
  padding: 0 4px;
  background: ${colour.raised};
  color: ${colour.ink};
  border-radius: 3px;
  font: 11.5px/16px ${font.text};
  white-space: nowrap;
  cursor: default;
  &[aria-pressed='true'] {
    background: ${colour.petrol};
    color: ${colour.onPetrol};
  }
`;
