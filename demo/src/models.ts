/** What the demo's design files are made from. Lengths in millimetres, densities in kilograms per cubic metre. */
import type { Shape3D } from 'replicad';
import type { Placement } from '@stem-trace/core';

export interface Material {
  readonly material: string;
  readonly densityKgM3: number;
  /** `#rrggbb` */
  readonly colour: string;
}

export interface PartModel extends Material {
  readonly kind: 'part';
  readonly number: string;
  readonly name: string;
  readonly folder: string;
  readonly description: string;
  readonly source: 'made' | 'bought';
  readonly build: () => Shape3D;
}

export interface AssemblyModel {
  readonly kind: 'assembly';
  readonly number: string;
  readonly name: string;
  readonly folder: string;
  readonly description: string;
  readonly uses: readonly Use[];
}

export type Model = PartModel | AssemblyModel;

export interface Use {
  readonly number: string;
  readonly at: Placement;
  /** Name of the occurrence, such as a reference designator; counted where absent. */
  readonly as?: string;
  /** Names of the configurations of the assembly that it belongs to; all where absent. */
  readonly only?: readonly string[];
}

export const STEEL: Material = {
  material: 'Steel S355, hot-dip galvanised',
  densityKgM3: 7850,
  colour: '#9aa5ab',
};
export const STAINLESS: Material = {
  material: 'Stainless steel A4-70',
  densityKgM3: 7900,
  colour: '#b9c1c6',
};
export const ALUMINIUM: Material = {
  material: 'Aluminium EN AW-6082 T6',
  densityKgM3: 2700,
  colour: '#cfd6d9',
};
export const POLYCARBONATE: Material = {
  material: 'Polycarbonate, UV-stabilised',
  densityKgM3: 1200,
  colour: '#dfe3dc',
};
export const NYLON: Material = {
  material: 'Polyamide 6, glass-filled',
  densityKgM3: 1360,
  colour: '#3d454a',
};
export const POLYETHYLENE: Material = { material: 'Polyethylene HD', densityKgM3: 950, colour: '#2e3337' };
export const ZINC: Material = { material: 'Zinc, anode grade', densityKgM3: 7140, colour: '#8d949a' };

/** Makes parts of our own design for one folder. */
export function designed(folder: string) {
  return (
    number: string,
    name: string,
    material: Material,
    description: string,
    build: () => Shape3D,
  ): PartModel => ({ kind: 'part', number, name, folder, description, source: 'made', ...material, build });
}

/** Makes assemblies for one folder. */
export function assembled(folder: string) {
  return (number: string, name: string, description: string, uses: readonly Use[]): AssemblyModel => ({
    kind: 'assembly',
    number,
    name,
    folder,
    description,
    uses,
  });
}

/** Three rows of a turn: where the used item's x, y and z come to lie. */
export type Turn = readonly [number, number, number, number, number, number, number, number, number];

/** Its z points along x: tubes that lie. */
export const LYING: Turn = [0, 0, 1, 0, 1, 0, -1, 0, 0];
/** Its z points along y: boxes that open to the front. */
export const FACING: Turn = [1, 0, 0, 0, 0, 1, 0, -1, 0];
/** Upright within what faces the front. */
export const UNFACING: Turn = [1, 0, 0, 0, 0, -1, 0, 1, 0];
/** Half a right angle back from the sun, and upright within that. */
const HALF = Math.round(Math.SQRT1_2 * 1e12) / 1e12;
export const TILTED: Turn = [1, 0, 0, 0, HALF, -HALF, 0, HALF, HALF];
export const UNTILTED: Turn = [1, 0, 0, 0, HALF, HALF, 0, -HALF, HALF];

/** A use at a position, turned; a number turns about the upright axis by so many degrees. */
export function use(number: string, x: number, y: number, z: number, turn: number | Turn = 0): Use {
  const [a, b, c, d, e, f, g, h, i] = typeof turn === 'number' ? aboutZ(turn) : turn;
  return { number, at: [a, b, c, x, d, e, f, y, g, h, i, z] };
}

function aboutZ(degrees: number): Turn {
  const angle = (degrees * Math.PI) / 180;
  const round = (value: number): number => Math.round(value * 1e12) / 1e12;
  const [cos, sin] = [round(Math.cos(angle)), round(Math.sin(angle))];
  return [cos, -sin, 0, sin, cos, 0, 0, 0, 1];
}
