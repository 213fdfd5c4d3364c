/** Boards for tests of BOMs. */
interface Placed {
  readonly id: string;
  /** Occurrence, x, and the designator where the file gives one. */
  readonly at: readonly (readonly [name: string, x: number, designator?: string])[];
}

/** A STEP file of a board with its parts in one file, each placed. */
export function board(id: string, parts: readonly Placed[]): Uint8Array {
  const lines: string[] = [];
  const add = (text: string): number => lines.push(text);
  const context = add("APPLICATION_CONTEXT('automotive design')");
  const geometry = add(
    "(GEOMETRIC_REPRESENTATION_CONTEXT(3) GLOBAL_UNIT_ASSIGNED_CONTEXT(()) REPRESENTATION_CONTEXT('',''))",
  );
  void context;
  const shapeOf = (name: string): { definition: number; shape: number } => {
    const product = add(`PRODUCT('${name}','${name}','',())`);
    const formation = add(`PRODUCT_DEFINITION_FORMATION('','',#${product})`);
    const definition = add(`PRODUCT_DEFINITION('design','',#${formation},$)`);
    const own = add(`PRODUCT_DEFINITION_SHAPE('','',#${definition})`);
    const shape = add(`SHAPE_REPRESENTATION('',(),#${geometry})`);
    add(`SHAPE_DEFINITION_REPRESENTATION(#${own},#${shape})`);
    return { definition, shape };
  };
  const axis = (x: number): number => {
    const point = add(`CARTESIAN_POINT('',(${x}.,0.,0.))`);
    const z = add("DIRECTION('',(0.,0.,1.))");
    const along = add("DIRECTION('',(1.,0.,0.))");
    return add(`AXIS2_PLACEMENT_3D('',#${point},#${z},#${along})`);
  };
  const top = shapeOf(id);
  for (const part of parts) {
    const child = shapeOf(part.id);
    for (const [name, x, designator] of part.at) {
      const said = designator === undefined ? '$' : `'${designator}'`;
      const use = add(
        `NEXT_ASSEMBLY_USAGE_OCCURRENCE('${name}','${name}','',#${top.definition},#${child.definition},${said})`,
      );
      const placed = add(`PRODUCT_DEFINITION_SHAPE('','',#${use})`);
      const transformation = add(`ITEM_DEFINED_TRANSFORMATION('','',#${axis(0)},#${axis(x)})`);
      const relation = add(
        `(REPRESENTATION_RELATIONSHIP('','',#${child.shape},#${top.shape}) REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION(#${transformation}) SHAPE_REPRESENTATION_RELATIONSHIP())`,
      );
      add(`CONTEXT_DEPENDENT_SHAPE_REPRESENTATION(#${relation},#${placed})`);
    }
  }
  const data = lines.map((line, at) => `#${at + 1}=${line};\n`).join('');
  return new TextEncoder().encode(
    `ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\n` +
      `FILE_SCHEMA(('AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }'));\nENDSEC;\nDATA;\n${data}ENDSEC;\nEND-ISO-10303-21;\n`,
  );
}
