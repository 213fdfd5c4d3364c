/** Entities become marks. Each kind says how it is drawn; what has no way to be drawn is counted. */
import type { LineLook, Mark, Spot } from '@stem-trace/core/sheet';
import { numberOf, pointOf, pointsOf, textOf, type Triple } from '../entities.js';
import type { Block, Contents, Whole } from './contents.js';
import { patternLines, readHatch } from './hatch.js';
import { imageCorners, wipeout } from './images.js';
import { attribute, constantText, paragraph, text, tolerance } from './letters.js';
import {
  arc,
  area,
  circle,
  ellipse,
  endless,
  face,
  lightPolyline,
  multiline,
  polyline,
  spline,
} from './lines.js';
import { Looks, type Inherited } from './looks.js';
import { arrow, lettering, line } from './marks.js';
import { multileader } from './multileader.js';
import { inserted, placed, planeOf, shifted, spotOf, UPRIGHT, type Placing } from './placing.js';
import { readView } from './view.js';

/** Where something stands, and what it was inserted by. */
interface Stand {
  readonly placing: Placing;
  readonly by: Inherited;
  /** Names of the blocks that it stands in, folded. */
  readonly within: readonly string[];
  /** Whether it stands on paper, where openings look at the model; in the model itself they are none. */
  readonly isPaper: boolean;
}

const DEGREE = Math.PI / 180;
const TURN = 2 * Math.PI;
/** Where a file whose blocks multiply ends. */
export interface MostDrawn {
  readonly marks: number;
  /** Entities and cells of rows of blocks that are looked at, though nothing may come of them. */
  readonly steps: number;
}

/** More than any drawing that a person can read. */
const MOST_DRAWN: MostDrawn = { marks: 600_000, steps: 1_200_000 };
const DEEPEST = 24;
/** Length of a point's mark and of an arrow where the file does not say. */
const ARROW = 2.5;

/** @param by what is said of its look, for what it inserts */
type Draw = (entity: Whole, stand: Stand, look: LineLook, by: Inherited) => Iterable<Mark>;

export class Drawer {
  readonly looks: Looks;
  private readonly undrawnCounts = new Map<string, { what: string; why: string; count: number }>();
  private marks = 0;
  private steps = 0;
  private readonly kinds: ReadonlyMap<string, Draw>;

  /** @param others contents of the drawings that this one draws on, by the path that it names them by */
  constructor(
    private readonly contents: Contents,
    private readonly others: (path: string) => Contents | undefined = () => undefined,
    looks = new Looks(contents),
    private readonly most = MOST_DRAWN,
  ) {
    this.looks = looks;
    const dimension: Draw = (entity, stand) => this.dimension(entity, stand);
    this.kinds = new Map<string, Draw>([
      [
        'LINE',
        (e, s, look) => [line(look, [spotOf(s.placing, pointOf(e, 10)), spotOf(s.placing, pointOf(e, 11))])],
      ],
      ['XLINE', (e, s, look) => endless(e, s, look, true)],
      ['RAY', (e, s, look) => endless(e, s, look, false)],
      ['POINT', (e, s, look) => [line(look, [spotOf(s.placing, pointOf(e, 10))])]],
      ['CIRCLE', (e, s, look) => circle(e, s, look, 0, TURN)],
      ['ARC', (e, s, look) => arc(e, s, look)],
      ['ELLIPSE', (e, s, look) => ellipse(e, s, look)],
      ['LWPOLYLINE', (e, s, look) => lightPolyline(e, s, look)],
      ['POLYLINE', (e, s, look) => polyline(e, s, look)],
      ['SPLINE', (e, s, look) => spline(e, s, look)],
      ['HELIX', (e, s, look) => spline(e, s, look)],
      ['SOLID', (e, s, look) => area(e, s, look)],
      ['TRACE', (e, s, look) => area(e, s, look)],
      ['3DFACE', (e, s, look) => face(e, s, look)],
      ['MLINE', (e, s, look) => multiline(e, s, look)],
      ['LEADER', (e, s, look) => this.leader(e, s, look)],
      ['HATCH', (e, s, look) => this.hatch(e, s, look)],
      ['TEXT', (e, s, look) => text(e, s, look)],
      [
        'ATTDEF',
        (e, s, look) => (s.within.length > 0 ? constantText(e, s, look) : text(e, s, look, textOf(e, 2))),
      ],
      ['MTEXT', (e, s, look) => paragraph(e, s, look)],
      ['TOLERANCE', (e, s, look) => tolerance(e, s, look)],
      ['INSERT', (e, s, _, by) => this.insertion(e, s, by)],
      ['DIMENSION', dimension],
      ['ARC_DIMENSION', dimension],
      ['LARGE_RADIAL_DIMENSION', dimension],
      ['ACAD_TABLE', (e, s) => this.table(e, s)],
      ['MULTILEADER', (e, s, look) => multileader(e, s.placing, look)],
      ['MLEADER', (e, s, look) => multileader(e, s.placing, look)],
      ['IMAGE', (e, s, look) => this.image(e, s, look)],
      ['WIPEOUT', (e, s, look) => wipeout(e, s, look)],
      ['VIEWPORT', (e, s) => this.viewport(e, s)],
    ]);
  }

  get undrawn(): { what: string; why: string; count: number }[] {
    return [...this.undrawnCounts.values()].sort((a, b) => b.count - a.count);
  }

  sheet(wholes: readonly Whole[], { isPaper }: Pick<Stand, 'isPaper'>): Mark[] {
    return [...this.all(wholes, { placing: UPRIGHT, by: this.looks.plain(), within: [], isPaper })];
  }

  miss(what: string, why: string): void {
    const key = `${what} ${why}`;
    const known = this.undrawnCounts.get(key);
    if (known) known.count++;
    else this.undrawnCounts.set(key, { what, why, count: 1 });
  }

  private *all(wholes: readonly Whole[], stand: Stand): Generator<Mark> {
    for (const whole of wholes) {
      if (this.isSpent()) {
        this.miss(whole.type, 'there is more on this drawing than anybody could look at');
        return;
      }
      yield* this.one(whole, stand);
    }
  }

  private isSpent(): boolean {
    return this.marks >= this.most.marks || ++this.steps > this.most.steps;
  }

  private *one(whole: Whole, stand: Stand): Generator<Mark> {
    // Not to be seen, says the file.
    if (numberOf(whole, 60) === 1) return;
    const draw = this.kinds.get(whole.type);
    if (!draw) {
      this.miss(whole.type, 'it is not drawn here');
      return;
    }
    let count = 0;
    const by = this.looks.of(whole, stand.by);
    for (const mark of draw(whole, stand, by.look, by)) {
      count++;
      if (!isSound(mark)) {
        this.miss(whole.type, 'its coordinates are no numbers that can be drawn');
        continue;
      }
      this.marks++;
      yield mark;
    }
    if (count === 0 && !MAY_BE_EMPTY.has(whole.type))
      this.miss(whole.type, 'what the file says of it cannot be drawn');
  }

  private *insertion(entity: Whole, stand: Stand, by: Inherited): Generator<Mark> {
    const name = textOf(entity, 2).toLowerCase();
    const block = this.contents.blocks.get(name);
    // Attributes stand where they are, whatever became of the block.
    for (const part of entity.parts)
      if ((numberOf(part, 70) & 1) === 0) yield* attribute(part, stand, this.looks.of(part, by).look);
    if (!block) {
      this.miss('INSERT', `there is no block '${textOf(entity, 2)}' in the file`);
      return;
    }
    const [columns, rows] = [atLeastOne(numberOf(entity, 70, 1)), atLeastOne(numberOf(entity, 71, 1))];
    const turn = numberOf(entity, 50) * DEGREE;
    const stretch: Triple = [numberOf(entity, 41, 1), numberOf(entity, 42, 1), numberOf(entity, 43, 1)];
    const plane = placed(stand.placing, planeOf(entity));
    for (let row = 0; row < rows; row++)
      for (let column = 0; column < columns; column++) {
        if (this.isSpent()) return;
        const grid = inserted(pointOf(entity, 10), turn, [1, 1, 1]);
        const cell: Triple = [column * numberOf(entity, 44), row * numberOf(entity, 45), 0];
        const own = placed(placed(grid, shifted(cell)), inserted([0, 0, 0], 0, stretch));
        yield* this.block(block, name, { ...stand, placing: placed(plane, own), by });
      }
  }

  private *block(block: Block, name: string, stand: Stand): Generator<Mark> {
    if (block.path !== '' && block.wholes.length === 0) {
      yield* this.other(block, stand);
      return;
    }
    if (stand.within.includes(name) || stand.within.length >= DEEPEST) {
      const isLoop = stand.within.includes(name);
      const why = isLoop ? 'contains itself' : `lies within ${DEEPEST} others, deeper than is drawn`;
      this.miss('INSERT', `block '${block.name}' ${why}`);
      return;
    }
    const [x, y, z] = block.base;
    yield* this.all(block.wholes, {
      ...stand,
      placing: placed(stand.placing, shifted([-x, -y, -z])),
      within: [...stand.within, name],
    });
  }

  /** Another drawing, as far as it is at hand; what that one draws on is not looked for. */
  private *other({ name, path }: Block, stand: Stand): Generator<Mark> {
    const contents = this.others(path);
    if (!contents) {
      this.miss('external reference', `'${path}' is another file, which is not in the store beside it`);
      return;
    }
    const looks = new Looks(contents, this.looks.list, `${name}|`);
    const drawer = new Drawer(contents, () => undefined, looks, this.most);
    const inside = { ...stand, by: looks.plain(), within: [], isPaper: false };
    for (const mark of drawer.all(contents.model, inside)) {
      this.marks++;
      yield mark;
    }
    for (const { what, why, count } of drawer.undrawn)
      for (let at = 0; at < count; at++) this.miss(what, why);
  }

  /** Whoever wrote it left a block that shows it. */
  private *dimension(entity: Whole, stand: Stand): Generator<Mark> {
    const name = textOf(entity, 2).toLowerCase();
    const block = this.contents.blocks.get(name);
    if (!block) {
      this.miss(entity.type, 'the file has no block that shows it');
      return;
    }
    const by = this.looks.of(entity, stand.by);
    yield* this.block(block, name, {
      ...stand,
      placing: placed(stand.placing, shifted(pointOf(entity, 12))),
      by,
    });
  }

  private *table(entity: Whole, stand: Stand): Generator<Mark> {
    const name = textOf(entity, 2).toLowerCase();
    const block = this.contents.blocks.get(name);
    if (!block) {
      this.miss(entity.type, 'the file has no block that shows it');
      return;
    }
    const [x, y] = pointOf(entity, 11);
    const at = inserted(pointOf(entity, 10), Math.atan2(y, x), [1, 1, 1]);
    yield* this.block(block, name, {
      ...stand,
      ...{ placing: placed(stand.placing, at), by: this.looks.of(entity, stand.by) },
    });
  }

  private *leader(entity: Whole, { placing }: Stand, look: LineLook): Generator<Mark> {
    const spots = pointsOf(entity, 10).map((point) => spotOf(placing, point));
    if (spots.length < 2) return;
    yield line(look, spots);
    if (numberOf(entity, 71, 1) === 1) yield arrow(look, spots, this.arrowSize());
  }

  private arrowSize(): number {
    const { header } = this.contents;
    const size = Number(header.get('$DIMASZ') ?? ARROW) * Number(header.get('$DIMSCALE') ?? 1);
    return size > 0 ? size : ARROW;
  }

  private *hatch(entity: Whole, { placing }: Stand, look: LineLook): Generator<Mark> {
    const hatch = readHatch(entity);
    if (!hatch) return;
    const plane = placed(placing, planeOf(entity));
    const rings = hatch.rings.map((ring) => ring.map((point) => spotOf(plane, point)));
    const lines = hatch.isSolid ? undefined : patternLines(hatch);
    if (!hatch.isSolid && lines === undefined)
      this.miss('HATCH', 'its pattern is too fine to be drawn; a tint stands for it');
    const solid = { ...look, dashes: [] };
    if (lines && lines.length > 0)
      for (const [from, to] of lines) yield line(solid, [spotOf(plane, from), spotOf(plane, to)]);
    else if (hatch.isSolid || lines === undefined)
      yield {
        kind: 'fill',
        look: hatch.isSolid ? look : { ...look, colour: '#c8ccd0' },
        rings,
        isPaper: false,
      };
    // A pattern without lines in so small an area.
    else yield* rings.map((ring) => line(solid, [...ring, ring[0] ?? [0, 0]]));
  }

  /** The frame of a picture, with the name of its file: pixels of other files are not part of the drawing. */
  private *image(entity: Whole, stand: Stand, look: LineLook): Generator<Mark> {
    const corners = imageCorners(entity, stand.placing);
    const [low, , high] = corners;
    if (!low || !high) return;
    yield line({ ...look, dashes: [] }, [...corners, low]);
    const path = this.contents.images.get(textOf(entity, 340)) ?? '';
    if (path !== '') this.miss('IMAGE', `only the frame of '${path}' is drawn`);
    const size = Math.min(Math.abs(high[0] - low[0]), Math.abs(high[1] - low[1])) / 12;
    if (path !== '' && size > 0)
      yield lettering(look, { at: low, height: size, lines: [path.replace(/^.*[\\/]/, '')] });
  }

  private *viewport(entity: Whole, stand: Stand): Generator<Mark> {
    // The first is the paper itself.
    if (numberOf(entity, 69, 2) === 1 || stand.within.length > 0 || !stand.isPaper) return;
    const view = readView(entity);
    if (view === undefined) {
      this.miss('VIEWPORT', 'it looks at the model from the side');
      return;
    }
    const frozen = new Set(view.frozen.map((handle) => this.looks.indexOfHandle(handle)));
    const marks = [
      ...this.all(this.contents.model, {
        ...stand,
        placing: placed(stand.placing, view.placing),
        isPaper: false,
      }),
    ].filter((mark) => mark.kind === 'opening' || !frozen.has(mark.look.layer));
    yield {
      ...{ kind: 'opening', low: spotOf(stand.placing, view.low), high: spotOf(stand.placing, view.high) },
      ...{ scale: view.scale, marks },
    };
  }
}

/** Kinds that rightly leave nothing on the sheet. */
const MAY_BE_EMPTY: ReadonlySet<string> = new Set([
  ...['INSERT', 'VIEWPORT', 'ATTDEF', 'TEXT', 'MTEXT', 'DIMENSION', 'ACAD_TABLE'],
  ...['ARC_DIMENSION', 'LARGE_RADIAL_DIMENSION', 'WIPEOUT', '3DFACE'],
]);

const MOST = 1e12;

/** Coordinates within what can be drawn; one wild number would make everything else a dot. */
function isSound(mark: Mark): boolean {
  const isFine = (spot: Spot): boolean => Math.abs(spot[0]) < MOST && Math.abs(spot[1]) < MOST;
  switch (mark.kind) {
    case 'stroke':
      return mark.spots.length > 0 && mark.spots.every(isFine);
    case 'arc':
      return (
        isFine(mark.centre) &&
        mark.radius > 0 &&
        mark.radius < MOST &&
        Number.isFinite(mark.from + mark.sweep)
      );
    case 'fill':
      return mark.rings.every((ring) => ring.every(isFine));
    case 'lettering':
      return isFine(mark.at) && mark.height > 0 && mark.height < MOST && Number.isFinite(mark.turn);
    case 'opening':
      return isFine(mark.low) && isFine(mark.high);
  }
}

function atLeastOne(count: number): number {
  return Math.min(Math.max(1, Math.trunc(count)), MOST_DRAWN.marks);
}
