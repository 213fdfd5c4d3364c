import { first, numberOf, pointOf, type Entity, type Triple } from '../entities.js';
import { inserted, placed, shifted, type Placing } from './placing.js';

export interface View {
  /** From the model to the paper. */
  readonly placing: Placing;
  readonly low: Triple;
  readonly high: Triple;
  readonly scale: number;
  /** Handles of layers that are not seen through it. */
  readonly frozen: readonly string[];
}

/**
 * What a VIEWPORT looks at (DXF reference, VIEWPORT); of release 12 the same stands in its extended data, in a fixed order.
 *
 * @returns undefined where it does not look straight down
 */
export function readView(entity: Entity): View | undefined {
  const [x, y] = pointOf(entity, 10);
  const [wide, tall] = [numberOf(entity, 40), numberOf(entity, 41)];
  const said = first(entity, 45) ? newer(entity) : older(entity);
  if (!said || !(wide > 0) || !(tall > 0) || !(said.height > 0)) return undefined;
  const { direction, target, centre, twist, height } = said;
  if (Math.abs(direction[0]) > 1e-9 || Math.abs(direction[1]) > 1e-9 || direction[2] <= 0) return undefined;
  const scale = tall / height;
  // The view's own axes lie at its target, turned by the twist.
  const toView = placed(inserted([0, 0, 0], twist, [1, 1, 1]), shifted([-target[0], -target[1], 0]));
  const toPaper = placed(
    placed(shifted([x, y, 0]), inserted([0, 0, 0], 0, [scale, scale, scale])),
    shifted([-centre[0], -centre[1], 0]),
  );
  return {
    ...{ placing: placed(toPaper, toView), scale },
    ...{ low: [x - wide / 2, y - tall / 2, 0], high: [x + wide / 2, y + tall / 2, 0] },
    frozen: entity.tags.flatMap(({ code, value }) => (code === 331 || code === 341 ? [value.trim()] : [])),
  };
}

interface Said {
  readonly direction: Triple;
  readonly target: Triple;
  readonly centre: readonly [number, number];
  /** Radians. */
  readonly twist: number;
  readonly height: number;
}

function newer(entity: Entity): Said {
  const direction = first(entity, 16) ? pointOf(entity, 16) : ([0, 0, 1] as const);
  return {
    ...{ direction, target: pointOf(entity, 17), centre: [numberOf(entity, 12), numberOf(entity, 22)] },
    ...{ twist: (numberOf(entity, 51) * Math.PI) / 180, height: numberOf(entity, 45) },
  };
}

function older({ tags }: Entity): Said | undefined {
  const begin = tags.findIndex(({ code, value }) => code === 1000 && value.trim() === 'MVIEW');
  if (begin < 0) return undefined;
  const own: Entity = { type: 'MVIEW', tags: tags.slice(begin) };
  const points = own.tags.flatMap(({ code, value }) =>
    code === 1010 || code === 1020 || code === 1030 ? [Number(value)] : [],
  );
  const numbers = own.tags.flatMap(({ code, value }) => (code === 1040 ? [Number(value)] : []));
  const [tx = 0, ty = 0, tz = 0, dx = 0, dy = 0, dz = 1] = points;
  const [twist = 0, height = 0, x = 0, y = 0] = numbers;
  return {
    ...{ target: [tx, ty, tz], direction: [dx, dy, dz] },
    ...{ twist: (twist * Math.PI) / 180, height, centre: [x, y] },
  };
}
