/** The map as a picture to take away. */
import { NODE, PAPER, type Placed } from './layout.js';
import type { MapGraph, MapNode } from './map-graph.js';

const INK = '#14191c';
const PETROL = '#0b4f5c';
const COPPER = '#96470f';
const MARGIN = 24;

/** As SVG with its own colours and typeface names; text is escaped. */
export function mapSvg({ nodes, edges }: MapGraph, placed: ReadonlyMap<string, Placed>): string {
  const at = (id: string): Placed => placed.get(id) ?? { x: 0, y: 0 };
  const width = Math.max(...nodes.map(({ id }) => at(id).x)) + NODE.widthPx + 2 * MARGIN;
  const height = Math.max(...nodes.map(({ id }) => at(id).y)) + NODE.heightPx + 2 * MARGIN;
  const byId = new Map(nodes.map((node) => [node.id, node]));
  const lines = edges.map(({ from, to, quantity, isBehind, isPaper }) => {
    const [a, b] = [at(from), at(to)];
    const [x1, y1] = [a.x + NODE.widthPx, a.y + NODE.heightPx / 2];
    const [x2, y2] = [b.x, b.y + sizeOf(byId.get(to)).heightPx / 2];
    const middle = (x1 + x2) / 2;
    const label = isPaper
      ? ''
      : `<text x="${middle}" y="${(y1 + y2) / 2 - 3}" font-size="10" text-anchor="middle" fill="${PETROL}">×${quantity}</text>`;
    return `<path d="M${x1} ${y1}C${middle} ${y1} ${middle} ${y2} ${x2} ${y2}" fill="none" stroke="${isBehind ? COPPER : '#8b989e'}"${isPaper ? ' stroke-dasharray="3 3"' : ''}/>${label}`;
  });
  const boxes = nodes.map((node) => {
    const { x, y } = at(node.id);
    const { widthPx, heightPx } = sizeOf(node);
    const isFocus = node.role === 'focus';
    const name =
      node.role === 'paper'
        ? ''
        : `<text x="${x + 8}" y="${y + 36}" font-size="11" fill="#4a575e">${escaped(cut(node.item.name, 27))}</text>`;
    return `<rect x="${x}" y="${y}" width="${widthPx}" height="${heightPx}" rx="3" fill="#fff" stroke="${isFocus ? PETROL : '#a4b0b6'}" stroke-width="${isFocus ? 2 : 1}"/><text x="${x + 8}" y="${y + 19}" font-size="12" font-family="IBM Plex Mono, monospace" fill="${INK}">${escaped(cut(node.item.number, 22))}</text>${name}`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="${-MARGIN} ${-MARGIN} ${width} ${height}" font-family="IBM Plex Sans, sans-serif"><rect x="${-MARGIN}" y="${-MARGIN}" width="${width}" height="${height}" fill="#fff"/>${lines.join('')}${boxes.join('')}</svg>`;
}

/** No browser draws larger pictures. */
const MOST_PX = 8000;

export async function mapPng(svg: string): Promise<Blob> {
  const image = new Image();
  image.src = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  await image.decode();
  const scale = Math.min(2, MOST_PX / Math.max(image.width, image.height));
  const canvas = document.createElement('canvas');
  canvas.width = Math.round(image.width * scale);
  canvas.height = Math.round(image.height * scale);
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
  URL.revokeObjectURL(image.src);
  return new Promise((done, fail) =>
    canvas.toBlob((blob) => {
      if (blob) done(blob);
      else fail(new Error('The browser could not draw the picture; take the map as SVG instead.'));
    }),
  );
}

function sizeOf(node: MapNode | undefined): { readonly widthPx: number; readonly heightPx: number } {
  return node?.role === 'paper' ? PAPER : NODE;
}

function cut(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
}

function escaped(text: string): string {
  return text.replace(/[&<>"]/g, (each) => `&#${each.charCodeAt(0)};`);
}
