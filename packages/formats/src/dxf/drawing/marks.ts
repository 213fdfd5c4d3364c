/** Marks as they are made by several kinds of entities. */
import type { Lettering, LineLook, Mark, Spot } from '@stem-trace/core/sheet';

export function line(look: LineLook, spots: readonly Spot[]): Mark {
  return { kind: 'stroke', look, spots };
}

export function arrow(look: LineLook, [tip, next]: readonly Spot[], size: number): Mark {
  const [from, to]: readonly [Spot, Spot] = [tip ?? [0, 0], next ?? [1, 0]];
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1;
  const [x, y] = [((to[0] - from[0]) / length) * size, ((to[1] - from[1]) / length) * size];
  const ring: Spot[] = [
    from,
    [from[0] + x - y / 6, from[1] + y + x / 6],
    [from[0] + x + y / 6, from[1] + y - x / 6],
  ];
  return { kind: 'fill', look, rings: [ring], isPaper: false };
}

export function lettering(
  look: LineLook,
  given: Pick<Lettering, 'at' | 'height' | 'lines'> & Partial<Lettering>,
): Lettering {
  return {
    ...{ kind: 'lettering', look: { layer: look.layer, colour: look.colour }, turn: 0, stretch: 1 },
    ...{ across: 'left', up: 'base', lineStep: given.height * (5 / 3), tag: '' },
    ...given,
  };
}
