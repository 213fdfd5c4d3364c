/** The map as a picture to take away. */
import { boxesOf, wayBetween, type Box, type Drawing } from './drawing.js';

/** May be printed. */
const COLOUR = {
  ground: '#fff',
  plate: '#fff',
  focus: '#d5e6e9',
  ink: '#14191c',
  inkSoft: '#4a575e',
  line: '#a4b0b6',
  petrol: '#0b4f5c',
  copper: '#96470f',
} as const;
const MARGIN = 24;

/** As SVG with its own colours and typeface names; text is escaped. */
export function mapSvg(drawing: Drawing): string {
  const { plates, frames, lines, bounds } = drawing;
  const boxes = boxesOf(drawing);
  const { x, y, widthPx, heightPx } = around(bounds);
  const ways = lines.map(({ from, to, label, isBehind, isPaper }) => {
    const [a, b] = [boxes.get(from), boxes.get(to)];
    if (!a || !b) return '';
    const at = { x: (a.x + a.widthPx + b.x) / 2, y: (a.y + b.y + (a.heightPx + b.heightPx) / 2) / 2 };
    const text =
      label === ''
        ? ''
        : `<text x="${at.x}" y="${at.y - 3}" font-size="10" text-anchor="middle" fill="${COLOUR.petrol}">${label}</text>`;
    return `<path d="${wayBetween(a, b)}" fill="none" stroke="${isBehind ? COLOUR.copper : COLOUR.line}"${isPaper ? ' stroke-dasharray="3 3"' : ''}/>${text}`;
  });
  const outlines = frames.map((frame) => rectangle(frame, 'none', COLOUR.line, 1));
  const drawn = plates.map((plate) => {
    const { node, link, x, y, widthPx } = plate;
    const isFocus = node.role === 'focus';
    const name =
      node.role === 'paper'
        ? ''
        : `<text x="${x + 8}" y="${y + 36}" font-size="11" fill="${COLOUR.inkSoft}">${escaped(cut(node.item.name, 27))}</text>`;
    const quantity =
      link === undefined || link.isPaper
        ? ''
        : `<text x="${x + widthPx - 8}" y="${y + 19}" font-size="10" text-anchor="end" fill="${link.isBehind ? COLOUR.copper : COLOUR.petrol}">×${link.quantity}</text>`;
    return `${rectangle(plate, isFocus ? COLOUR.focus : COLOUR.plate, isFocus ? COLOUR.petrol : COLOUR.line, isFocus ? 2 : 1)}<text x="${x + 8}" y="${y + 19}" font-size="12" font-family="IBM Plex Mono, monospace" fill="${COLOUR.ink}">${escaped(cut(node.item.number, 22))}</text>${name}${quantity}`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${widthPx}" height="${heightPx}" viewBox="${x} ${y} ${widthPx} ${heightPx}" font-family="IBM Plex Sans, sans-serif"><rect x="${x}" y="${y}" width="${widthPx}" height="${heightPx}" fill="${COLOUR.ground}"/>${[...outlines, ...ways, ...drawn].join('')}</svg>`;
}

/** What the picture shows: the map with a margin. */
function around({ x, y, widthPx, heightPx }: Box): Box {
  return { x: x - MARGIN, y: y - MARGIN, widthPx: widthPx + 2 * MARGIN, heightPx: heightPx + 2 * MARGIN };
}

function rectangle({ x, y, widthPx, heightPx }: Box, fill: string, stroke: string, width: number): string {
  return `<rect x="${x}" y="${y}" width="${widthPx}" height="${heightPx}" rx="3" fill="${fill}" stroke="${stroke}" stroke-width="${width}"/>`;
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

function cut(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
}

function escaped(text: string): string {
  return text.replace(/[&<>"]/g, (each) => `&#${each.charCodeAt(0)};`);
}
