/** A flat picture that is moved and magnified, with whatever lies over it: drawings, pages, images. */
import type { Extent, Spot } from '@stem-trace/core/sheet';
import { useCallback, useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { Over, PictureFrame } from '../picture-frame.js';
import { fitted, magnified, moved, resized, toPicture, type View } from './view.js';

/** What a board shows. */
export interface Surface {
  readonly extent: Extent;
  /** Draws what the view shows; called anew for every view. */
  paint(context: CanvasRenderingContext2D, view: View, density: number): void;
  /** Called when something that is drawn has become ready. @returns a function that ends the listening */
  onReady?(listener: () => void): () => void;
}

/** What a pointer does instead of moving the picture. */
export interface BoardTool {
  readonly cursor: string;
  down?(spot: Spot, event: React.PointerEvent): void;
  move?(spot: Spot, event: React.PointerEvent): void;
  up?(spot: Spot, event: React.PointerEvent): void;
  /** What was begun is given up. */
  cancel?(): void;
}

export interface BoardProps {
  readonly surface: Surface;
  readonly label: string;
  readonly isLarge?: boolean;
  readonly tool?: BoardTool | undefined;
  /** Drawn over it, in pixels of the screen. */
  readonly over?: (view: View) => React.ReactNode;
  /** Extent to go to; another object goes there again. */
  readonly goTo?: Extent | undefined;
}

const STEP_PX = 80;
/** One press of a key, one notch of a wheel. */
const CLOSER = 1.25;
/** Room around a place that is gone to, by its size; and how much larger than the whole it is shown at most. */
const AROUND = 0.45;
const MOST_CLOSER = 6;

export function Board({ surface, label, isLarge = false, tool, over, goTo }: BoardProps): React.JSX.Element {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { view, change } = useView(box, surface, goTo);
  usePainting(canvas, surface, view);
  const pointer = usePointers(box, view, change, tool);
  useWheel(box, change, isLarge);
  const onKeyDown = (event: React.KeyboardEvent): void => {
    const move = KEYS[event.key];
    if (!move || event.ctrlKey || event.metaKey || event.altKey || event.target !== event.currentTarget)
      return;
    event.preventDefault();
    event.stopPropagation();
    change((current) => move(current, surface.extent));
  };
  return (
    <Frame
      ref={box}
      data-large={isLarge || undefined}
      style={{ cursor: isLarge ? (tool?.cursor ?? 'grab') : undefined }}
      role="application"
      aria-label={isLarge ? `${label}. Plus and minus magnify, arrow keys move, 0 shows all.` : label}
      {...(isLarge ? { tabIndex: 0, onKeyDown, ...pointer } : {})}
    >
      <canvas ref={canvas} />
      {view && over ? <Over>{over(view)}</Over> : null}
    </Frame>
  );
}

type Change = (next: (view: View) => View) => void;

const KEYS: Readonly<Record<string, (view: View, extent: Extent) => View>> = {
  '+': (view) => magnified(view, CLOSER),
  '-': (view) => magnified(view, 1 / CLOSER),
  '0': (view, extent) => fitted(extent, view.size),
  ArrowLeft: (view) => moved(view, STEP_PX, 0),
  ArrowRight: (view) => moved(view, -STEP_PX, 0),
  ArrowUp: (view) => moved(view, 0, STEP_PX),
  ArrowDown: (view) => moved(view, 0, -STEP_PX),
};

/** What is seen: all at first and whenever another picture comes, then whatever was moved to. */
function useView(
  box: React.RefObject<HTMLDivElement | null>,
  surface: Surface,
  goTo: Extent | undefined,
): { readonly view: View | undefined; readonly change: Change } {
  const [view, setView] = useState<View>();
  const { low, high } = surface.extent;
  const extent = useRef(surface.extent);
  extent.current = surface.extent;
  const key = [...low, ...high].join(' ');
  useEffect(() => {
    const frame = box.current;
    if (!frame) return undefined;
    const size = (): View['size'] => [Math.max(frame.clientWidth, 1), Math.max(frame.clientHeight, 1)];
    setView(fitted(surface.extent, size()));
    const observer = new ResizeObserver(() => setView((current) => current && resized(current, size())));
    observer.observe(frame);
    return () => observer.disconnect();
    // Another surface of the same extent is the same sheet drawn otherwise: whoever looks stays where they are.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [box, key]);
  useEffect(() => {
    if (goTo) setView((current) => current && goneTo(goTo, current, extent.current));
  }, [goTo]);
  const change = useCallback<Change>((next) => setView((current) => current && next(current)), []);
  return { view, change };
}

/** A place with enough around it to see where it is. */
function goneTo(place: Extent, { size }: View, whole: Extent): View {
  const view = fitted(place, size, AROUND);
  return { ...view, scale: Math.min(view.scale, fitted(whole, size).scale * MOST_CLOSER) };
}

function usePainting(
  canvas: React.RefObject<HTMLCanvasElement | null>,
  surface: Surface,
  view: View | undefined,
): void {
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || !view) return undefined;
    const paint = (): void => {
      const density = window.devicePixelRatio;
      const [width, height] = view.size;
      if (element.width !== Math.round(width * density)) element.width = Math.round(width * density);
      if (element.height !== Math.round(height * density)) element.height = Math.round(height * density);
      element.style.width = `${width}px`;
      element.style.height = `${height}px`;
      context.setTransform(density, 0, 0, density, 0, 0);
      context.clearRect(0, 0, width, height);
      surface.paint(context, view, density);
    };
    let frame = requestAnimationFrame(paint);
    const end = surface.onReady?.(() => {
      cancelAnimationFrame(frame);
      frame = requestAnimationFrame(paint);
    });
    return () => {
      cancelAnimationFrame(frame);
      end?.();
    };
  }, [canvas, surface, view]);
}

/** One pointer moves the picture or uses the tool; two magnify. */
function usePointers(
  box: React.RefObject<HTMLDivElement | null>,
  view: View | undefined,
  change: Change,
  tool: BoardTool | undefined,
) {
  const down = useRef(new Map<number, Spot>());
  /** Whether the tool is in use; a second finger magnifies, and what the first began is given up. */
  const isWorking = useRef(false);
  const giveUp = (): void => {
    if (isWorking.current) tool?.cancel?.();
    isWorking.current = false;
  };
  const at = (event: React.PointerEvent): Spot => {
    const frame = box.current?.getBoundingClientRect();
    return [event.clientX - (frame?.left ?? 0), event.clientY - (frame?.top ?? 0)];
  };
  const isMoving = (event: React.PointerEvent): boolean => !tool || event.button === 1 || event.shiftKey;
  const hand = (deed: 'down' | 'move' | 'up', event: React.PointerEvent): void => {
    if (view) tool?.[deed]?.(toPicture(view, at(event)), event);
  };
  return {
    onPointerDown: (event: React.PointerEvent): void => {
      box.current?.setPointerCapture(event.pointerId);
      down.current.set(event.pointerId, at(event));
      if (down.current.size > 1) giveUp();
      else if (!isMoving(event)) {
        isWorking.current = true;
        hand('down', event);
      }
    },
    onPointerMove: (event: React.PointerEvent): void => {
      const before = down.current.get(event.pointerId);
      if (!before || down.current.size > 2) {
        hand('move', event);
        return;
      }
      const now = at(event);
      down.current.set(event.pointerId, now);
      const other = [...down.current].find(([id]) => id !== event.pointerId)?.[1];
      if (other) change((current) => pinched(current, { before, now, other }));
      else if (isWorking.current) hand('move', event);
      else if (isMoving(event)) change((current) => moved(current, now[0] - before[0], now[1] - before[1]));
    },
    onPointerUp: (event: React.PointerEvent): void => {
      down.current.delete(event.pointerId);
      if (isWorking.current) hand('up', event);
      isWorking.current = false;
    },
    onPointerCancel: (event: React.PointerEvent): void => {
      down.current.delete(event.pointerId);
      giveUp();
    },
  };
}

/** One finger stays, the other goes from one place to another. */
function pinched(
  view: View,
  { before, now, other }: { readonly before: Spot; readonly now: Spot; readonly other: Spot },
): View {
  const apart = (spot: Spot): number => Math.max(Math.hypot(spot[0] - other[0], spot[1] - other[1]), 1);
  return magnified(view, apart(now) / apart(before), other);
}

/** React's own listener may not keep the page from scrolling. */
function useWheel(box: React.RefObject<HTMLDivElement | null>, change: Change, isLarge: boolean): void {
  useEffect(() => {
    const frame = box.current;
    if (!frame || !isLarge) return undefined;
    const turn = (event: WheelEvent): void => {
      event.preventDefault();
      const { left, top } = frame.getBoundingClientRect();
      const at: Spot = [event.clientX - left, event.clientY - top];
      change((current) => magnified(current, CLOSER ** (-Math.sign(event.deltaY) || 0), at));
    };
    frame.addEventListener('wheel', turn, { passive: false });
    return () => frame.removeEventListener('wheel', turn);
  }, [box, change, isLarge]);
}

const Frame = styled(PictureFrame)`
  touch-action: none;
  /* Paper is white in every theme: colours of a drawing are meant for it. */
  background: #ffffff;
`;
