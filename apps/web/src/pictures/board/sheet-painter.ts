/** Paints marks of a drawing. Lines of one look are one path, made once for all views. */
import type { Extent, Lettering, LineLook, Mark, Spot } from '@stem-trace/core/sheet';
import { toScreen, type View } from './view.js';

/** Height of capitals by the size of the font (IBM Plex Sans). */
const CAPITALS = 0.698;
const INK = '#14191c';
/** Letters lower than this are a line. */
const LEGIBLE_PX = 2.5;
const DASH_PX = 1.5;

interface Lines {
  readonly look: LineLook;
  readonly path: Path2D;
}

interface Area {
  readonly colour: string;
  readonly path: Path2D;
}

interface Opened {
  readonly low: Spot;
  readonly high: Spot;
  readonly inside: Painted;
}

/** In the order in which they cover each other: areas, lines, letters. */
interface Painted {
  readonly areas: readonly Area[];
  readonly lines: readonly Lines[];
  readonly letters: readonly Lettering[];
  readonly openings: readonly Opened[];
}

export interface PainterOptions {
  /** Layers that are not shown. */
  readonly hidden?: ReadonlySet<number>;
  /** One colour for everything. */
  readonly colour?: string;
}

export class SheetPainter {
  private readonly painted: Painted;
  private readonly colour: string | undefined;

  constructor(marks: readonly Mark[], { hidden = new Set(), colour }: PainterOptions = {}) {
    this.colour = colour;
    this.painted = prepared(marks, hidden, colour);
  }

  paint(context: CanvasRenderingContext2D, view: View, density: number): void {
    paintAll(context, this.painted, { view, density, colour: this.colour });
  }
}

interface Brush {
  readonly view: View;
  readonly density: number;
  readonly colour: string | undefined;
}

function prepared(marks: readonly Mark[], hidden: ReadonlySet<number>, colour: string | undefined): Painted {
  const areas = new Map<string, Area>();
  const lines = new Map<string, Lines>();
  const letters: Lettering[] = [];
  const openings: Opened[] = [];
  for (const mark of marks) {
    if (mark.kind === 'opening') {
      openings.push({ low: mark.low, high: mark.high, inside: prepared(mark.marks, hidden, colour) });
      continue;
    }
    if (hidden.has(mark.look.layer)) continue;
    if (mark.kind === 'lettering') letters.push(mark);
    else if (mark.kind === 'fill') {
      const fill = mark.isPaper ? '#ffffff' : (colour ?? onPaper(mark.look.colour));
      let area = areas.get(fill);
      if (!area) areas.set(fill, (area = { colour: fill, path: new Path2D() }));
      for (const ring of mark.rings) addSpots(area.path, ring, true);
    } else {
      const { weightMm, dashes, width } = mark.look;
      const key = `${mark.look.colour ?? ''} ${weightMm} ${width} ${dashes.join(' ')}`;
      let same = lines.get(key);
      if (!same) lines.set(key, (same = { look: mark.look, path: new Path2D() }));
      if (mark.kind === 'stroke') addSpots(same.path, mark.spots, false);
      else {
        const { centre, radius, from, sweep } = mark;
        same.path.moveTo(centre[0] + radius * Math.cos(from), centre[1] + radius * Math.sin(from));
        same.path.arc(centre[0], centre[1], radius, from, from + sweep);
      }
    }
  }
  return { areas: [...areas.values()], lines: [...lines.values()], letters, openings };
}

function addSpots(path: Path2D, spots: readonly Spot[], isClosed: boolean): void {
  spots.forEach(([x, y], at) => (at === 0 ? path.moveTo(x, y) : path.lineTo(x, y)));
  const [only] = spots;
  // A spot alone is drawn as a dot by the round ends of a line without length.
  if (spots.length === 1 && only) path.lineTo(only[0], only[1]);
  if (isClosed) path.closePath();
}

function paintAll(context: CanvasRenderingContext2D, painted: Painted, brush: Brush): void {
  const { view, density, colour } = brush;
  const { scale } = view;
  for (const { low, high, inside } of painted.openings) {
    context.save();
    const [x, y] = toScreen(view, [low[0], high[1]]);
    context.beginPath();
    context.rect(x, y, (high[0] - low[0]) * scale, (high[1] - low[1]) * scale);
    context.clip();
    paintAll(context, inside, brush);
    context.restore();
  }
  context.save();
  const [x, y] = toScreen(view, [0, 0]);
  context.setTransform(scale * density, 0, 0, -scale * density, x * density, y * density);
  context.lineCap = 'round';
  context.lineJoin = 'round';
  for (const area of painted.areas) {
    context.fillStyle = area.colour;
    context.fill(area.path, 'evenodd');
  }
  for (const { look, path } of painted.lines) {
    context.strokeStyle = colour ?? onPaper(look.colour);
    context.lineWidth = Math.max(look.width, weightPx(look.weightMm, scale) / scale);
    const shortest = Math.min(...look.dashes.filter((each) => each > 0));
    context.setLineDash(look.dashes.length > 0 && shortest * scale > DASH_PX / 4 ? [...look.dashes] : []);
    context.stroke(path);
  }
  context.restore();
  for (const mark of painted.letters) paintLetters(context, mark, brush);
}

/** As wide as on paper where a unit is a millimetre, never too thin to be seen nor so wide that it hides what is near. */
function weightPx(weightMm: number, scale: number): number {
  return Math.min(Math.max(weightMm * scale, 0.9), Math.max(weightMm * 7, 0.9));
}

function paintLetters(context: CanvasRenderingContext2D, mark: Lettering, { view, colour }: Brush): void {
  const { at, height, turn, stretch, lines, lineStep, across, up } = mark;
  const [x, y] = toScreen(view, at);
  const reach =
    (Math.max(...lines.map((line) => line.length)) * height * stretch + lines.length * lineStep) * view.scale;
  if (x + reach < 0 || y + reach < 0 || x - reach > view.size[0] || y - reach > view.size[1]) return;
  const px = height * view.scale;
  context.save();
  context.translate(x, y);
  context.rotate(-turn);
  context.scale(stretch, 1);
  context.fillStyle = colour ?? onPaper(mark.look.colour);
  context.font = `${px / CAPITALS}px 'IBM Plex Sans', sans-serif`;
  context.textAlign = across === 'middle' ? 'center' : across;
  const stepPx = lineStep * view.scale;
  const first = firstBase(up, px, (lines.length - 1) * stepPx);
  lines.forEach((line, number) => {
    const base = first + number * stepPx;
    if (px >= LEGIBLE_PX) context.fillText(line, 0, base);
    else
      context.fillRect(
        across === 'left' ? 0 : -line.length * px * 0.3,
        base - px / 2,
        line.length * px * 0.6,
        Math.max(px / 4, 0.4),
      );
  });
  context.restore();
}

/** Where the first line stands, below the spot that it is placed by; pixels. */
function firstBase(up: Lettering['up'], px: number, below: number): number {
  if (up === 'top') return px;
  if (up === 'middle') return (px - below) / 2;
  return up === 'bottom' ? -below : 0;
}

/** Colours that would not be seen on white are darkened. */
function onPaper(colour: string | null): string {
  if (colour === null) return INK;
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map((at) => Number.parseInt(colour.slice(at, at + 2), 16));
  const light = (0.299 * red + 0.587 * green + 0.114 * blue) / 255;
  if (light < 0.62) return colour;
  return `rgb(${[red, green, blue].map((part) => Math.round((part * 0.62) / light)).join(' ')})`;
}

/** What an empty sheet shows: nothing, in a box that can be looked at. */
export const NOWHERE: Extent = { low: [0, 0], high: [100, 100] };
