/** The logger's circuit board with its placed components, each under its reference designator. */
import { assembled, use, type AssemblyModel, type Use } from './models.js';
import { corners } from './shapes.js';

/** Top of the bare board over the standoffs. */
const TOP = 9.6;

/** Letter of the designator, number of the component, how many; in the order in which they are placed. */
const PLACED: readonly (readonly [string, string, number])[] = [
  ['U', 'FM-9614', 1],
  ['U', 'FM-9615', 1],
  ['U', 'FM-9616', 2],
  ['U', 'FM-9617', 1],
  ['U', 'FM-9618', 2],
  ['U', 'FM-9619', 1],
  ['U', 'FM-9623', 1],
  ['Y', 'FM-9620', 1],
  ['J', 'FM-9621', 5],
  ['J', 'FM-9622', 2],
  ['J', 'FM-9624', 1],
  ['L', 'FM-9609', 2],
  ['C', 'FM-9608', 2],
  ['C', 'FM-9606', 8],
  ['C', 'FM-9605', 16],
  ['C', 'FM-9607', 2],
  ['R', 'FM-9601', 12],
  ['R', 'FM-9602', 6],
  ['R', 'FM-9603', 4],
  ['R', 'FM-9604', 1],
  ['D', 'FM-9610', 2],
  ['D', 'FM-9611', 4],
  ['D', 'FM-9612', 2],
  ['Q', 'FM-9613', 1],
];

/** Where the large ones sit, by designator, in the board's plane; the rest stands in rows. */
const LARGE: Readonly<Record<string, readonly [number, number]>> = {
  U1: [0, 6],
  U8: [48, 22],
  J1: [-60, -40],
  J2: [-36, -40],
  J3: [-12, -40],
  J4: [12, -40],
  J5: [36, -40],
  J6: [-62, 34],
  J7: [-44, 34],
  J8: [60, -6],
  C1: [-56, 6],
  C2: [-42, 6],
  L1: [-56, 20],
  L2: [-42, 20],
};

const COLUMNS = 13;

export function loggerBoard(): AssemblyModel {
  const counts = new Map<string, number>();
  let placed = 0;
  const components = PLACED.flatMap(([letter, number, count]) =>
    Array.from({ length: count }, (): Use => {
      const position = (counts.get(letter) ?? 0) + 1;
      counts.set(letter, position);
      const as = `${letter}${position}`;
      const [x, y] = LARGE[as] ?? rowPosition(placed++);
      return { ...use(number, x, y, TOP), as };
    }),
  );
  return assembled('River stage station')(
    'FM-2310',
    'Logger board',
    `Circuit board with ${components.length} components and standoffs`,
    [use('FM-3311', 0, 0, 8), ...corners(148, 88).map(([x, y]) => use('FM-3312', x, y, 0)), ...components],
  );
}

function rowPosition(index: number): readonly [number, number] {
  return [
    -24 + (index % COLUMNS) * 6.5,
    -26 + Math.floor(index / COLUMNS) * 4.6 + (index % COLUMNS > 1 && index > 40 ? 34 : 0),
  ];
}
