/** The fonts that a document is written with. They are embedded, and no more of them than is used. */
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import fontkit from '@pdf-lib/fontkit';
import { radians, type Color, type PDFDocument, type PDFFont, type PDFPage } from 'pdf-lib';
import decompress from 'woff2-encoder/decompress';

/** Stands for a character that no font has, so that nobody takes a text for whole that is not. */
const BOX = '\u25A1';

export interface DrawnText {
  readonly x: number;
  readonly y: number;
  readonly size: number;
  readonly color: Color;
  /** Counterclockwise, in radians. */
  readonly turn?: number;
  /** Width by that of the font. */
  readonly stretch?: number;
}

interface Run {
  readonly font: PDFFont;
  readonly text: string;
}

/** A font, and one with every script that it lacks; that is plain, and embedded only where something needs it. */
export class Faces {
  /** Characters that neither has. */
  readonly missing = new Set<string>();

  private constructor(
    private readonly font: PDFFont,
    private readonly known: ReadonlySet<number>,
    private readonly further: PDFFont | undefined,
    private readonly knownFurther: ReadonlySet<number>,
  ) {}

  /**
   * @param texts all that will be written
   * @param file of the DejaVu fonts
   */
  static async open(document: PDFDocument, texts: Iterable<string>, file = 'DejaVuSans.ttf'): Promise<Faces> {
    document.registerFontkit(fontkit);
    const path = createRequire(import.meta.url).resolve(`dejavu-fonts-ttf/ttf/${file}`);
    const font = await document.embedFont(await readFile(path), { subset: true });
    const known = new Set(font.getCharacterSet());
    if (!lacksAny(known, texts)) return new Faces(font, known, undefined, new Set());
    const further = await document.embedFont(await everyScript(), { subset: true });
    return new Faces(font, known, further, new Set(further.getCharacterSet()));
  }

  /** In points. */
  widthOf(text: string, size: number): number {
    return this.runsOf(text).reduce((sum, { font, text: run }) => sum + font.widthOfTextAtSize(run, size), 0);
  }

  /** One line. @returns how long it is, in points */
  draw(page: PDFPage, text: string, { x, y, size, color, turn = 0, stretch = 1 }: DrawnText): number {
    let along = 0;
    for (const { font, text: run } of this.runsOf(text)) {
      page.drawText(run, {
        ...{ x: x + along * Math.cos(turn), y: y + along * Math.sin(turn), size, font, color },
        rotate: radians(turn),
      });
      along += font.widthOfTextAtSize(run, size) * stretch;
    }
    return along;
  }

  private runsOf(text: string): Run[] {
    const runs: { font: PDFFont; text: string }[] = [];
    for (const each of text) {
      const [font, said] = this.faceOf(each);
      const last = runs.at(-1);
      if (last?.font === font) last.text += said;
      else runs.push({ font, text: said });
    }
    return runs;
  }

  private faceOf(character: string): readonly [PDFFont, string] {
    const point = character.codePointAt(0) ?? 0;
    if (this.known.has(point)) return [this.font, character];
    if (this.further && this.knownFurther.has(point)) return [this.further, character];
    this.missing.add(character);
    return [this.font, BOX];
  }
}

function lacksAny(known: ReadonlySet<number>, texts: Iterable<string>): boolean {
  for (const text of texts) for (const each of text) if (!known.has(each.codePointAt(0) ?? 0)) return true;
  return false;
}

let unpacked: Promise<Uint8Array> | undefined;

/** GNU Unifont, which has all of the basic multilingual plane; unpacked once, for it takes half a second. */
function everyScript(): Promise<Uint8Array> {
  unpacked ??= readFile(
    createRequire(import.meta.url).resolve('@fontsource/unifont/files/unifont-latin-400-normal.woff2'),
  ).then((bytes) => decompress(bytes));
  return unpacked;
}
