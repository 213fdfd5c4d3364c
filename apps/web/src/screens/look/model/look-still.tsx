/** For browsers that draw nothing in three dimensions: pictures that stand still, in which one can still point at things. */
import { useEffect, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { NO_SOLIDS } from '../../../pictures/can-draw-solids.js';
import { Choice, Hint } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';
import { BarLine, PictureGround } from './bar-line.js';
import { ColourPick } from './colour-pick.js';
import { Legend } from './legend.js';
import { ShownButtons } from './shown-buttons.js';
import type { Looking } from './use-looking.js';
import { useStill, type DrawnStill } from './use-still.js';
import { VIEW_NAMES, VIEWS, type ViewName } from './views.js';

/** What can be done with a picture that cannot be turned. */
export function StillBar({ looking }: { readonly looking: Looking }): React.JSX.Element {
  const { view, setView } = looking;
  return (
    <BarLine role="toolbar" aria-label="The picture">
      <Why>{NO_SOLIDS} Until then, here are pictures that stand still.</Why>
      <Choice<ViewName>
        label="Look"
        options={VIEW_NAMES.map((key, at) => ({ key, text: `${VIEWS[key].says} (${at + 1})` }))}
        value={view}
        onChange={setView}
      />
      <ShownButtons {...looking} />
      <ColourPick {...looking} />
    </BarLine>
  );
}

export function StillPicture({
  looking,
  waitsFor,
}: {
  readonly looking: Looking;
  /** Meshes that are not there yet. */
  readonly waitsFor: number;
}): React.JSX.Element {
  const { item, loaded, select, state, view } = looking;
  const box = useRef<HTMLDivElement>(null);
  const [width, height] = useSize(box);
  const { from, up } = VIEWS[view];
  const still = useStill(
    looking,
    useMemo(() => ({ from, up, width, height }), [from, up, width, height]),
  );
  const canvas = useDrawn(still);
  const click = (event: React.MouseEvent<HTMLElement>): void => {
    const { left, top, width: wide, height: tall } = event.currentTarget.getBoundingClientRect();
    const node = still ? seenAt(still, (event.clientX - left) / wide, (event.clientY - top) / tall) : -1;
    const others = event.shiftKey ? state.selected : [];
    select(node < 0 ? [] : [...others, node]);
  };
  const done = loaded.length - waitsFor;
  return (
    <Frame ref={box}>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`${item} ${VIEWS[view].says}`}
        aria-busy={waitsFor > 0 || !still?.isNewest}
        tabIndex={0}
        onClick={click}
      />
      <p role="status">{waitsFor === 0 ? '' : `Making the picture: ${done} of ${loaded.length} parts`}</p>
      <Legend {...looking} />
    </Frame>
  );
}

/** What is seen at a share of the width and of the height; -1 where nothing is. */
function seenAt({ ids, width, height }: DrawnStill, x: number, y: number): number {
  return ids[Math.floor(y * height) * width + Math.floor(x * width)] ?? -1;
}

/** In pixels of the screen, as fine as it is. */
function useSize(box: React.RefObject<HTMLElement | null>): readonly [number, number] {
  const [size, setSize] = useState<readonly [number, number]>([0, 0]);
  useEffect(() => {
    const { current } = box;
    if (!current) return undefined;
    const take = (): void => {
      const fine = window.devicePixelRatio;
      setSize([Math.round(current.clientWidth * fine), Math.round(current.clientHeight * fine)]);
    };
    const observer = new ResizeObserver(take);
    observer.observe(current);
    take();
    return () => observer.disconnect();
  }, [box]);
  return size;
}

function useDrawn(still: DrawnStill | undefined): React.RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const { current } = canvas;
    if (!current || !still || still.width === 0 || still.height === 0) return;
    current.width = still.width;
    current.height = still.height;
    current.getContext('2d')?.putImageData(new ImageData(still.pixels, still.width, still.height), 0, 0);
  }, [still]);
  return canvas;
}

const Why = styled(Hint)`
  flex-basis: 100%;
  max-width: none;
`;
const Frame = styled(PictureGround)`
  flex: 1;
  min-height: 0;
  position: relative;
  canvas {
    width: 100%;
    height: 100%;
  }
  p {
    position: absolute;
    left: 10px;
    bottom: 8px;
    margin: 0;
    color: ${colour.inkSoft};
    pointer-events: none;
  }
`;
