/**
 * Parametric shapes of the station's parts, in millimetres. Z is up along the mast.
 */
import {
  draw,
  drawCircle,
  drawPolysides,
  drawRectangle,
  drawRoundedRectangle,
  makeCylinder,
  type Drawing,
  type Shape3D,
} from 'replicad';

type Point = [number, number];

export function tube(outer: number, wall: number, length: number): Shape3D {
  return solid(drawCircle(outer / 2).cut(drawCircle(outer / 2 - wall)), length);
}

/** A plate with round holes at the given points. */
export function plate(
  width: number,
  depth: number,
  thickness: number,
  holes: readonly Point[],
  hole: number,
  corner = 6,
): Shape3D {
  return solid(withHoles(drawRoundedRectangle(width, depth, corner), holes, hole), thickness);
}

export function gusset(width: number, height: number, thickness: number): Shape3D {
  return solid(draw().hLine(width).vLine(18).lineTo([18, height]).hLine(-18).close(), thickness);
}

/** A box open at one side, with rounded upright edges. */
export function tray(width: number, depth: number, height: number, wall: number): Shape3D {
  const outside = solid(drawRoundedRectangle(width, depth, 8), height);
  const inside = solid(drawRoundedRectangle(width - 2 * wall, depth - 2 * wall, 6), height).translate(
    0,
    0,
    wall,
  );
  return outside.cut(inside);
}

/** Half a clamp around a mast: a block with a half-round seat and two bolt holes. */
export function clampHalf(mast: number, width: number, height: number, bolt: number): Shape3D {
  const block = solid(drawRectangle(width, mast * 0.66).translate(0, mast * 0.33 + 1), height);
  const seat = makeCylinder(mast / 2, height, [0, 0, 0], [0, 0, 1]);
  const offset = mast / 2 + 14;
  const holes = [-offset, offset].map((x) => makeCylinder(bolt / 2, 60, [x, -2, height / 2], [0, 1, 0]));
  return holes.reduce<Shape3D>((body, hole) => body.cut(hole), block.cut(seat));
}

/** Hexagon-head bolt; the head's width across flats as in ISO 4017. */
export function bolt(diameter: number, length: number, acrossFlats: number, head: number): Shape3D {
  const shank = makeCylinder(diameter / 2, length, [0, 0, -length], [0, 0, 1]);
  return solid(hexagon(acrossFlats), head).fuse(shank);
}

export function nut(diameter: number, acrossFlats: number, height: number): Shape3D {
  return solid(hexagon(acrossFlats).cut(drawCircle(diameter / 2)), height);
}

export function washer(inner: number, outer: number, thickness: number): Shape3D {
  return solid(drawCircle(outer / 2).cut(drawCircle(inner / 2)), thickness);
}

export function gland(thread: number, acrossFlats: number, length: number): Shape3D {
  const body = solid(hexagon(acrossFlats), length * 0.3);
  const dome = makeCylinder(acrossFlats * 0.46, length * 0.35, [0, 0, length * 0.3], [0, 0, 1]);
  const threaded = makeCylinder(thread / 2, length * 0.35, [0, 0, -length * 0.35], [0, 0, 1]);
  return body
    .fuse(dome)
    .fuse(threaded)
    .cut(makeCylinder(thread * 0.3, length * 2, [0, 0, -length], [0, 0, 1]));
}

/** A horn antenna: a truncated cone, hollow. */
export function horn(mouth: number, throat: number, length: number, wall: number): Shape3D {
  const cone = (grow: number): Shape3D =>
    draw([0, 0])
      .lineTo([throat / 2 - grow, 0])
      .lineTo([mouth / 2 - grow, length])
      .lineTo([0, length])
      .close()
      .sketchOnPlane('XZ')
      .revolve() as Shape3D;
  return cone(0).cut(cone(wall));
}

export function drum(diameter: number, height: number, wall: number): Shape3D {
  return solid(drawCircle(diameter / 2), height).cut(
    solid(drawCircle(diameter / 2 - wall), height).translate(0, 0, wall),
  );
}

export function disc(diameter: number, thickness: number, holes: readonly Point[], hole: number): Shape3D {
  return solid(withHoles(drawCircle(diameter / 2), holes, hole), thickness);
}

export function block(width: number, depth: number, height: number, corner: number): Shape3D {
  return solid(drawRoundedRectangle(width, depth, corner), height);
}

/** A frame of rectangular section. */
export function frame(width: number, depth: number, bar: number, height: number): Shape3D {
  return solid(
    drawRoundedRectangle(width, depth, 4).cut(drawRoundedRectangle(width - 2 * bar, depth - 2 * bar, 2)),
    height,
  );
}

/** An angle bracket: two legs, a hole in each. */
export function angle(legA: number, legB: number, width: number, thickness: number, hole: number): Shape3D {
  const profile = draw()
    .hLine(legA)
    .vLine(thickness)
    .hLine(-(legA - thickness))
    .vLine(legB - thickness)
    .hLine(-thickness)
    .close();
  const body = solid(profile, width);
  const inA = makeCylinder(hole / 2, thickness * 3, [legA * 0.65, -thickness, width / 2], [0, 1, 0]);
  const inB = makeCylinder(hole / 2, thickness * 3, [-thickness, legB * 0.65, width / 2], [1, 0, 0]);
  return body.cut(inA).cut(inB);
}

/** A rail of hat section. */
export function rail(length: number): Shape3D {
  const hat: Point[] = [
    [4, 0],
    [4, 6],
    [31, 6],
    [31, 0],
    [35, 0],
    [35, 1.5],
    [32.5, 1.5],
    [32.5, 7.5],
    [2.5, 7.5],
    [2.5, 1.5],
    [0, 1.5],
  ];
  return solid(hat.reduce((pen, point) => pen.lineTo(point), draw([0, 0])).close(), length);
}

export function corners(width: number, depth: number): Point[] {
  return [
    [-width / 2, -depth / 2],
    [width / 2, -depth / 2],
    [width / 2, depth / 2],
    [-width / 2, depth / 2],
  ];
}

function hexagon(acrossFlats: number): Drawing {
  return drawPolysides(acrossFlats / Math.sqrt(3), 6);
}

function withHoles(drawing: Drawing, holes: readonly Point[], hole: number): Drawing {
  return holes.reduce((rest, [x, y]) => rest.cut(drawCircle(hole / 2).translate(x, y)), drawing);
}

function solid(drawing: Drawing, height: number): Shape3D {
  return drawing.sketchOnPlane('XY').extrude(height) as Shape3D;
}
