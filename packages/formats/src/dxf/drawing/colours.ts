/** Colours by number (DXF reference, group 62): nine that are named, 240 around the circle of hues, six greys. */

const NAMED = ['#ff0000', '#ffff00', '#00ff00', '#00ffff', '#0000ff', '#ff00ff', null, '#808080', '#c0c0c0'];
/** How bright the five steps of a hue are. */
const BRIGHTNESS = [1, 0.8, 0.6, 0.5, 0.3];
const GREYS = [0x33, 0x5b, 0x84, 0xad, 0xd6, 0xff];

/** `#rrggbb` of a colour's number 1 to 255; null is ink: 7 is black on paper, white on a dark screen. */
export function colourOf(number: number): string | null {
  if (number >= 1 && number <= 9) return NAMED[number - 1] ?? null;
  if (number >= 250 && number <= 255) {
    const grey = GREYS[number - 250] ?? 0;
    return grey === 0xff ? null : hex([grey, grey, grey]);
  }
  if (!(number >= 10 && number < 250)) return null;
  const brightness = (BRIGHTNESS[Math.floor((number % 10) / 2)] ?? 1) * 255;
  const isPale = number % 2 === 1;
  return hex(
    hueOf((Math.floor(number / 10) - 1) * 15).map((part) => brightness * (isPale ? (part + 1) / 2 : part)),
  );
}

/** Of a true colour (group 420). */
export function trueColour(value: number): string {
  return `#${(value & 0xffffff).toString(16).padStart(6, '0')}`;
}

/** Red, green and blue, 0 to 1, of a full hue. */
function hueOf(degrees: number): number[] {
  return [5, 3, 1].map((shift) => {
    const at = (shift + degrees / 60) % 6;
    return 1 - Math.max(0, Math.min(at, 4 - at, 1));
  });
}

function hex(parts: readonly number[]): string {
  return `#${parts.map((part) => Math.round(part).toString(16).padStart(2, '0')).join('')}`;
}
