import type { Outline, SectionPlane } from '@stem-trace/core/look';

/** Outlines as SVG 1.1 at full size: a unit is a millimetre, up is up. One path for each body, holes by even-odd. */
export function sectionSvg(outlines: readonly Outline[], { normal }: SectionPlane): string {
  const points = outlines.flatMap(({ rings }) => rings.flat());
  const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)];
  const [left, right] = [least(xs), -least(xs.map((x) => -x))];
  const [low, high] = [least(ys), -least(ys.map((y) => -y))];
  const [width, height] = [right - left, high - low].map(said);
  const paths = outlines.map(({ rings }) => {
    const way = rings.map((ring) => `M${ring.map(([x, y]) => `${said(x)} ${said(-y)}`).join('L')}Z`).join('');
    return `  <path d="${way}"/>`;
  });
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}mm" height="${height}mm" viewBox="${said(left)} ${said(-high)} ${width} ${height}">`,
    `  <title>Section across ${normal.map(said).join(' ')}</title>`,
    '  <g fill="none" stroke="#1d2a31" stroke-width="0.25" fill-rule="evenodd">',
    ...paths,
    '  </g>',
    '</svg>',
    '',
  ].join('\n');
}

/** Zero of none; a spread of many thousand would not fit on the stack. */
function least(values: readonly number[]): number {
  return values.reduce((low, value) => Math.min(low, value), values[0] ?? 0);
}

/** A thousandth of a millimetre is more than the mesh knows. */
function said(value: number): string {
  return String(Number(value.toFixed(3)) + 0);
}
