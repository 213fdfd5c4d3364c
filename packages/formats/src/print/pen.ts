/** Draws marks of a sheet, and what people drew on it, onto a page of PDF. */
import type { Lettering, LineLook, Mark, Spot } from '@stem-trace/core/sheet';
import {
  appendBezierCurve,
  clip,
  closePath,
  endPath,
  fill,
  lineTo,
  moveTo,
  PDFNumber,
  PDFArray,
  PDFOperator,
  PDFOperatorNames,
  popGraphicsState,
  pushGraphicsState,
  rectangle,
  rgb,
  setCharacterSqueeze,
  setFillingRgbColor,
  setLineCap,
  setLineJoin,
  setLineWidth,
  setStrokingRgbColor,
  stroke,
  type PDFPage,
} from 'pdf-lib';
import type { Faces } from './faces.js';

const POINTS_PER_MM = 72 / 25.4;
/** Height of capitals by the size of the font (DejaVu Sans). */
const CAPITALS = 0.729;
type Rgb = readonly [number, number, number];
const INK: Rgb = [0, 0, 0];

export interface PenOptions {
  readonly page: PDFPage;
  readonly faces: Faces;
  /** Points for a unit of what is drawn. */
  readonly scale: number;
  /** Where spot 0, 0 lies on the page, in points. */
  readonly origin: Spot;
}

export class Pen {
  constructor(private readonly options: PenOptions) {}

  at([x, y]: Spot): Spot {
    const { scale, origin } = this.options;
    return [origin[0] + x * scale, origin[1] + y * scale];
  }

  /** @param isShown whether marks of a layer go on paper */
  marks(marks: readonly Mark[], isShown: (layer: number) => boolean): void {
    for (const mark of marks) {
      if (mark.kind === 'opening') this.opening(mark, isShown);
      else if (isShown(mark.look.layer)) this.mark(mark);
    }
  }

  private opening(
    { low, high, marks }: Extract<Mark, { kind: 'opening' }>,
    isShown: (layer: number) => boolean,
  ): void {
    const [x, y] = this.at(low);
    const [right, top] = this.at(high);
    const { page } = this.options;
    page.pushOperators(pushGraphicsState(), rectangle(x, y, right - x, top - y), clip(), endPath());
    this.marks(marks, isShown);
    page.pushOperators(popGraphicsState());
  }

  private mark(mark: Exclude<Mark, { kind: 'opening' }>): void {
    switch (mark.kind) {
      case 'stroke':
        return this.line(
          mark.spots,
          colourOf(mark.look.colour),
          this.weight(mark.look),
          this.dashes(mark.look),
        );
      case 'arc':
        return this.arc(mark);
      case 'fill':
        return this.area(mark.rings, mark.isPaper ? [1, 1, 1] : colourOf(mark.look.colour));
      case 'lettering':
        return this.letters(mark);
    }
  }

  private weight({ weightMm, width }: LineLook): number {
    return width > 0 ? width * this.options.scale : weightMm * POINTS_PER_MM;
  }

  private dashes({ dashes }: LineLook): number[] {
    return dashes.map((each) => each * this.options.scale);
  }

  line(spots: readonly Spot[], colour: Rgb, width: number, dashes: readonly number[] = []): void {
    const [first, ...others] = spots.map((spot) => this.at(spot));
    if (!first) return;
    this.options.page.pushOperators(
      pushGraphicsState(),
      setStrokingRgbColor(...colour),
      setLineWidth(width),
      setLineCap(1),
      setLineJoin(1),
      ...this.dash(dashes),
      moveTo(...first),
      ...(others.length === 0 ? [lineTo(...first)] : others.map((spot) => lineTo(...spot))),
      stroke(),
      popGraphicsState(),
    );
  }

  private dash(dashes: readonly number[]): PDFOperator[] {
    if (dashes.length === 0 || dashes.some((each) => !(each > 0.01))) return [];
    const array = PDFArray.withContext(this.options.page.doc.context);
    for (const each of dashes) array.push(PDFNumber.of(each));
    return [PDFOperator.of(PDFOperatorNames.SetLineDashPattern, [array, PDFNumber.of(0)])];
  }

  /** Quarters or less of a turn, each as one curve; off by less than three parts in ten thousand of the radius. */
  private arc({ centre, radius, from, sweep, look }: Extract<Mark, { kind: 'arc' }>): void {
    const pieces = Math.max(1, Math.ceil(sweep / (Math.PI / 2)));
    const step = sweep / pieces;
    const reach = (4 / 3) * Math.tan(step / 4) * radius;
    const spot = (angle: number, tangent: number): Spot => [
      centre[0] + radius * Math.cos(angle) - tangent * Math.sin(angle),
      centre[1] + radius * Math.sin(angle) + tangent * Math.cos(angle),
    ];
    const curves = Array.from({ length: pieces }, (_, piece) => {
      const begin = from + piece * step;
      const [a, b, c] = [spot(begin, reach), spot(begin + step, -reach), spot(begin + step, 0)].map((each) =>
        this.at(each),
      );
      return appendBezierCurve(...(a ?? [0, 0]), ...(b ?? [0, 0]), ...(c ?? [0, 0]));
    });
    this.options.page.pushOperators(
      pushGraphicsState(),
      setStrokingRgbColor(...colourOf(look.colour)),
      setLineWidth(this.weight(look)),
      ...this.dash(this.dashes(look)),
      moveTo(...this.at(spot(from, 0))),
      ...curves,
      stroke(),
      popGraphicsState(),
    );
  }

  area(rings: readonly (readonly Spot[])[], colour: Rgb): void {
    const paths = rings.flatMap((ring) => {
      const [first, ...others] = ring.map((spot) => this.at(spot));
      return first ? [moveTo(...first), ...others.map((spot) => lineTo(...spot)), closePath()] : [];
    });
    if (paths.length === 0) return;
    const filled = rings.length === 1 ? fill() : PDFOperator.of(PDFOperatorNames.FillEvenOdd);
    this.options.page.pushOperators(
      pushGraphicsState(),
      setFillingRgbColor(...colour),
      ...paths,
      filled,
      popGraphicsState(),
    );
  }

  private letters({ at, height, turn, stretch, lines, lineStep, across, up, look }: Lettering): void {
    const { scale, faces, page } = this.options;
    const size = (height * scale) / CAPITALS;
    if (!(size > 0.2) || !(stretch > 0.01)) return;
    const [x, y] = this.at(at);
    const below = (lines.length - 1) * lineStep * scale;
    const first = { base: 0, top: -height * scale, middle: (below - height * scale) / 2, bottom: below }[up];
    lines.forEach((line, number) => {
      const width = faces.widthOf(line, size) * stretch;
      const right = across === 'left' ? 0 : across === 'middle' ? -width / 2 : -width;
      const rise = first - number * lineStep * scale;
      page.pushOperators(pushGraphicsState(), setCharacterSqueeze(stretch * 100));
      faces.draw(page, line, {
        x: x + right * Math.cos(turn) - rise * Math.sin(turn),
        y: y + right * Math.sin(turn) + rise * Math.cos(turn),
        ...{ size, turn, stretch, color: rgb(...colourOf(look.colour)) },
      });
      page.pushOperators(popGraphicsState());
    });
  }
}

function colourOf(colour: string | null): Rgb {
  if (colour === null) return INK;
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map(
    (at) => Number.parseInt(colour.slice(at, at + 2), 16) / 255,
  );
  return [red, green, blue];
}
