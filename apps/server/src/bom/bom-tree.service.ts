import { holderFor } from '../store/names.js';
import { Injectable } from '@nestjs/common';
import type { HolderView, LensText } from '@stem-trace/contract';
import {
  addTo,
  billTree,
  explode,
  ownValue,
  pieces,
  ROLLED_UP,
  sayValue,
  compareDesignators,
  type BomLine,
  type Effectivity,
  type ExplodedRow,
  type LineFacts,
  type PropertyValue,
} from '@stem-trace/core';
import { DataSource } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import type { BillContents } from '../build/bill-contents.js';
import { readRows, text } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { propertiesOf } from '../store/facts.js';
import { effectivityTeller, type TellEffectivity } from '../store/effectivity.js';
import { StructureLoader } from '../structure/structure-loader.js';

/** A line of a BOM of the store. */
export interface StoreLine extends LineFacts {
  readonly children: readonly StoreLine[];
  /** Of its link, among those of its user's version; absent for the root. */
  readonly position?: number;
  /** From when until when it counts, as far as the asker may be told; always where absent. */
  readonly effectivity?: Effectivity;
  readonly isGap: boolean;
  readonly heldBy: HolderView | null;
}

export interface BomTreeOptions {
  readonly lens: LensText;
  readonly rights: Rights;
  /** Names of properties that lines tell. */
  readonly columns?: readonly string[];
}

/** What versions are made of, as lines of a BOM. */
@Injectable()
export class BomTreeService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
    private readonly bills: BillContents,
  ) {}

  /** As `structure`, and of a bill what it says: bills are listed, compared and written like every BOM. */
  async tree(root: DescribedVersion, options: BomTreeOptions): Promise<StoreLine> {
    return root.kind === 'bill' ? this.bill(root, options) : this.structure(root, options);
  }

  private async bill(root: DescribedVersion, { rights, columns = [] }: BomTreeOptions): Promise<StoreLine> {
    const bill = await this.bills.read(root);
    const ids = [...new Set(bill.rows.flatMap(({ itemId }) => itemId ?? []))];
    const items = new Map((await this.catalogue.newestOf(ids)).map((item) => [item.itemId, item]));
    const teller = new Teller(columns, rights, new Map());
    const told = (line: BomLine): StoreLine => {
      const item = items.get(line.itemId ?? '');
      const children = line.children.map(told);
      if (!item) return { ...line, children, heldBy: null, isGap: line.itemId !== undefined };
      if (!rights.may('see', item.placeId))
        return { ...hiddenLine(item, { quantity: 1, link: { amount: line.amount } }), children: [] };
      return teller.ofBill(line, item, children);
    };
    return { ...teller.root(root), children: billTree(bill).children.map(told) };
  }

  /** All levels; what the asker may not see counts as a line that says nothing of itself or what it is made of. */
  private async structure(
    root: DescribedVersion,
    { lens, rights, columns = [] }: BomTreeOptions,
  ): Promise<StoreLine> {
    const under = await this.catalogue.lens(lens, rights);
    const graph = await this.loader.below(root.id, under);
    const rows = explode(graph, root.id, { lens: under });
    const ids = [...new Set(rows.flatMap((row) => row.version?.id ?? []))];
    const described = await this.catalogue.describe(ids);
    const origins = await this.originsOf([root.id, ...ids]);
    const tell = await effectivityTeller(
      this.database.manager,
      rows.map(({ link }) => link),
      rights,
    );
    const teller = new Teller(columns, rights, origins, tell);
    const lines: { readonly children: StoreLine[]; readonly isClosed: boolean }[] = [];
    const top: StoreLine[] = [];
    for (const row of rows) {
      const parent = lines[row.parentRow];
      const known = row.version ? described.get(row.version.id) : undefined;
      const isHidden = known !== undefined && !rights.may('see', known.placeId);
      const isClosed = (parent?.isClosed ?? false) || isHidden;
      const children: StoreLine[] = [];
      lines.push({ children, isClosed });
      if (parent?.isClosed) continue;
      (parent?.children ?? top).push(isHidden ? hiddenLine(known, row) : teller.line(row, known, children));
    }
    return { ...teller.root(root), children: top };
  }

  /** The versions that each version goes back to, through any number of derivations. */
  private async originsOf(versionIds: readonly string[]): Promise<Map<string, string[]>> {
    const rows = await readRows(
      this.database,
      { id: text, origin: text },
      `WITH RECURSIVE chain AS (
         SELECT id, origin_version_id AS origin FROM version WHERE id = ANY($1::bigint[]) AND origin_version_id IS NOT NULL
         UNION
         SELECT c.id, v.origin_version_id FROM chain c JOIN version v ON v.id = c.origin WHERE v.origin_version_id IS NOT NULL
       ) SELECT id, origin FROM chain ORDER BY origin`,
      [versionIds],
    );
    const origins = new Map<string, string[]>();
    for (const { id, origin } of rows) addTo(origins, id, origin);
    return origins;
  }
}

/** Says what is known of versions, each once however often it is met. */
class Teller {
  private readonly columns: ReadonlyMap<string, string>;
  private readonly told = new Map<string, Omit<StoreLine, 'children'>>();

  constructor(
    columns: readonly string[],
    private readonly rights: Rights,
    private readonly origins: ReadonlyMap<string, string[]>,
    private readonly tellEffectivity: TellEffectivity = (effectivity) => effectivity,
  ) {
    this.columns = new Map(columns.map((name) => [name.toLowerCase(), name]));
  }

  line(
    { link, quantity }: ExplodedRow,
    version: DescribedVersion | undefined,
    children: StoreLine[],
  ): StoreLine {
    const effectivity = this.tellEffectivity(link.effectivity);
    const designators = link.occurrences.flatMap(({ designator }) => designator ?? []);
    return {
      ...(version ? this.tell(version) : gap(link.targetItem, link.targetText)),
      amount: link.amount ?? pieces(quantity),
      find: link.find ?? '',
      designators: designators.length > 1 ? [...designators].sort(compareDesignators) : designators,
      configurations: link.configurations ?? [],
      placements: link.occurrences.map(({ placement }) => placement),
      ...(link.position === undefined ? {} : { position: link.position }),
      ...(effectivity ? { effectivity } : {}),
      children,
    };
  }

  /** A row of a bill: what it says itself, and what the store knows of its item now. */
  ofBill(line: BomLine, item: DescribedVersion, children: readonly StoreLine[]): StoreLine {
    const told = this.tell(item);
    const { find, designators, amount, version } = line;
    return {
      ...told,
      ...{ find, designators, amount, children },
      version: version === '' ? told.version : version,
      values: { ...told.values, ...line.values },
    };
  }

  root(version: DescribedVersion): StoreLine {
    return { ...this.tell(version), children: [] };
  }

  private tell(version: DescribedVersion): Omit<StoreLine, 'children'> {
    const known = this.told.get(version.id);
    if (known) return known;
    const { facts } = version;
    const [massKg, cost] = ROLLED_UP.map((property) => ownValue(facts.properties, property));
    const told: Omit<StoreLine, 'children'> = {
      itemId: version.itemId,
      stem: version.stemId,
      number: version.number,
      name: version.name,
      versionId: version.id,
      version: version.label,
      originVersions: this.origins.get(version.id) ?? [],
      kind: version.kind,
      state: version.state,
      source: facts.source,
      values: this.valuesOf(propertiesOf(version)),
      heldBy: holderFor(this.rights, version.heldBy),
      isGap: false,
      ...PLAIN,
      ...(massKg === undefined ? {} : { massKg }),
      ...(cost === undefined ? {} : { cost }),
    };
    this.told.set(version.id, told);
    return told;
  }

  private valuesOf(properties: readonly PropertyValue[]): Record<string, string> {
    const values: Record<string, string> = {};
    for (const property of properties) {
      const column = this.columns.get(property.name.toLowerCase());
      if (column !== undefined) values[column] = sayValue(property);
    }
    return values;
  }
}

/** Of one piece, anywhere. */
const PLAIN = {
  amount: pieces(1),
  find: '',
  designators: [],
  configurations: [],
  placements: [],
} as const;

function gap(item: string | undefined, number: string): Omit<StoreLine, 'children'> {
  return {
    ...(item === undefined ? {} : { itemId: item, stem: item }),
    ...{ number, name: '', version: '', originVersions: [], values: {}, heldBy: null, isGap: true },
    ...PLAIN,
  };
}

/** Without its version: whether that has changed is not told either. */
function hiddenLine(
  { itemId, stemId }: DescribedVersion,
  { quantity, link }: { readonly quantity: number; readonly link: Pick<ExplodedRow['link'], 'amount'> },
): StoreLine {
  return {
    ...{ itemId, stem: stemId, number: 'not visible to you', name: '', version: '' },
    ...{ originVersions: [], values: {}, heldBy: null, isGap: false, isHidden: true, children: [] },
    ...PLAIN,
    amount: link.amount ?? pieces(quantity),
  };
}
