/** STEP files as different exporters write them: the same structure, with names of other files said in every way there is. */
import { encodeStepString } from '../step/strings.js';

/** Where and how often a file says the name of another. */
export const LOCATOR_STYLES = [
  'document file',
  'assigned',
  'in the source',
  'folder in the source',
  'per occurrence',
  'associated documents',
  'external definition',
  'document product',
  'complex instance',
  'comments',
] as const;
export type LocatorStyle = (typeof LOCATOR_STYLES)[number];

export interface StepUse {
  readonly id: string;
  readonly name?: string;
  /** Path of the file that defines it; where absent the product lives in this file. */
  readonly locator?: string;
  readonly count?: number;
  /** What it is made of, where it lives in this file. */
  readonly uses?: readonly StepUse[];
}

export interface StepSetFile {
  readonly id: string;
  readonly name?: string;
  readonly uses?: readonly StepUse[];
  readonly style?: LocatorStyle;
  /** Further instances, as they stand in the file; numbers from 90000 on are free. */
  readonly more?: string;
  readonly fileName?: string;
}

/** A STEP file without geometry. Each use has a placeholder of its own id; equal ids share one. */
export function stepFile({
  id,
  name = id,
  uses = [],
  style = 'assigned',
  more = '',
  fileName = '',
}: StepSetFile): Uint8Array {
  const out = new Writer(style);
  const top = out.product(id, name);
  out.uses(top, uses);
  return new TextEncoder().encode(
    `ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME(${text(fileName)},'',(''),(''),'','','');\n` +
      `FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));\nENDSEC;\nDATA;\n${out.data()}${more}ENDSEC;\nEND-ISO-10303-21;\n`,
  );
}

const text = encodeStepString;

/** A comment before each comma that is not part of a string. */
function withComments(line: string, comment: string): string {
  return line.replace(/'(?:[^']|'')*'|,/g, (token) => (token === ',' ? ` ${comment},` : token));
}

class Writer {
  private readonly lines: string[] = [];
  private readonly known = new Map<string, number>();
  private occurrence = 0;
  private readonly context: number;

  constructor(private readonly style: LocatorStyle) {
    this.context = this.add("APPLICATION_CONTEXT('automotive design')");
  }

  data(): string {
    const blank = this.style === 'comments' ? "/* ; it's */ " : '';
    return this.lines
      .map((line, at) => `#${at + 1}=${blank}${blank ? withComments(line, blank) : line};\n`)
      .join('');
  }

  /** @returns the product definition */
  product(id: string, name: string): number {
    const product = this.add(`PRODUCT(${text(id)},${text(name)},'',())`);
    const formation = this.add(`PRODUCT_DEFINITION_FORMATION('','',#${product})`);
    return this.add(`PRODUCT_DEFINITION('design','',#${formation},$)`);
  }

  uses(parent: number, uses: readonly StepUse[]): void {
    for (const use of uses) {
      const key = `${use.id}\n${use.locator ?? ''}`;
      let child = this.known.get(key);
      const isNew = child === undefined;
      child ??= this.placeholder(use);
      this.known.set(key, child);
      for (let at = 0; at < (use.count ?? 1); at++) {
        this.add(
          `NEXT_ASSEMBLY_USAGE_OCCURRENCE('${++this.occurrence}',${text(`${use.id}_${at + 1}`)},${text(`Placement of ${use.id}`)},#${parent},#${child},$)`,
        );
        if (this.style === 'per occurrence' && use.locator !== undefined) this.file(use.locator, child);
      }
      if (isNew && use.uses) this.uses(child, use.uses);
    }
  }

  private placeholder({ id, name = id, locator }: StepUse): number {
    if (locator !== undefined && this.style === 'associated documents') {
      const product = this.add(`PRODUCT(${text(id)},${text(name)},'',())`);
      const formation = this.add(`PRODUCT_DEFINITION_FORMATION('','',#${product})`);
      const document = this.add(`DOCUMENT_FILE(${text(locator)},'','',$,'',$)`);
      return this.add(
        `PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS('design','',#${formation},$,(#${document}))`,
      );
    }
    const definition = this.product(id, name);
    if (locator !== undefined && this.style !== 'per occurrence') this.file(locator, definition);
    return definition;
  }

  private file(locator: string, definition: number): void {
    const cut = Math.max(locator.lastIndexOf('/'), locator.lastIndexOf('\\')) + 1;
    const [folder, name] = [locator.slice(0, cut), locator.slice(cut)];
    switch (this.style) {
      case 'document file':
      case 'comments':
        this.attach(this.add(`DOCUMENT_FILE(${text(locator)},$,$,$,'',$)`), definition);
        return;
      case 'in the source':
        this.assigned({ document: '', assigned: '', source: locator }, definition);
        return;
      case 'folder in the source':
        this.assigned({ document: name, assigned: name, source: folder }, definition);
        return;
      case 'complex instance': {
        const document = this.add(
          `(CHARACTERIZED_OBJECT('','')DOCUMENT(${text(locator)},'',$,$)DOCUMENT_FILE())`,
        );
        this.attach(document, definition);
        return;
      }
      case 'external definition': {
        const document = this.add(`DOCUMENT_FILE(${text(locator)},'','',$,'',$)`);
        const property = this.add(`PROPERTY_DEFINITION('external definition','',#${document})`);
        const shape = this.add(`PRODUCT_DEFINITION_SHAPE('','',#${definition})`);
        const representation = this.add("SHAPE_REPRESENTATION('',(),$)");
        this.add(`SHAPE_DEFINITION_REPRESENTATION(#${shape},#${representation})`);
        this.add(`PROPERTY_DEFINITION_REPRESENTATION(#${property},#${representation})`);
        return;
      }
      case 'document product':
        this.documentProduct(locator, definition);
        return;
      default:
        this.assigned({ document: locator, assigned: locator, source: '' }, definition);
    }
  }

  private assigned(
    said: { readonly document: string; readonly assigned: string; readonly source: string },
    definition: number,
  ): void {
    const document = this.add(`DOCUMENT_FILE(${text(said.document)},'','',$,'',$)`);
    const source = this.add(`EXTERNAL_SOURCE(IDENTIFIER(${text(said.source)}))`);
    const role = this.add("IDENTIFICATION_ROLE('external document id and location',$)");
    this.add(
      `APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT(${text(said.assigned)},#${role},#${source},(#${document}))`,
    );
    this.attach(document, definition);
  }

  /** As an open-source kernel writes it: the document is a product with a definition in a context of its own. */
  private documentProduct(locator: string, definition: number): void {
    const type = this.add("DOCUMENT_TYPE('configuration controlled document version')");
    const document = this.add(`DOCUMENT('','',$,#${type})`);
    const product = this.add(`PRODUCT('2000${this.lines.length}',${text(`${locator}-Doc`)},'',())`);
    const formation = this.add(`PRODUCT_DEFINITION_FORMATION('1','',#${product})`);
    this.add(`DOCUMENT_PRODUCT_EQUIVALENCE('equivalence',$,#${document},#${formation})`);
    const context = this.add(`PRODUCT_DEFINITION_CONTEXT('digital document definition',#${this.context},'')`);
    const file = this.add(`DOCUMENT_FILE(${text(locator)},'',$,$,'',$)`);
    this.add(`PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS('1','',#${formation},#${context},(#${file}))`);
    const source = this.add(`EXTERNAL_SOURCE(IDENTIFIER(${text(locator)}))`);
    const role = this.add("IDENTIFICATION_ROLE('external document id and location',$)");
    this.add(`APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT(${text(locator)},#${role},#${source},(#${file}))`);
    this.attach(document, definition);
  }

  private attach(document: number, definition: number): void {
    this.add(`APPLIED_DOCUMENT_REFERENCE(#${document},'',(#${definition}))`);
  }

  private add(record: string): number {
    return this.lines.push(record);
  }
}
