import { readFile } from 'node:fs/promises';
import type { FileAnswer, LensText } from '@stem-trace/contract';
import { numberKey, type BuildBill, type IssuedKind } from '@stem-trace/core';
import { FormatError } from '@stem-trace/formats';
import { DataSource } from 'typeorm';
import type { BlobStore } from '../blobs/blob-store.js';
import { keepBlob } from '../blobs/keep-blob.js';
import type { BillFileService } from '../bom/bill-file.service.js';
import type { BillContents } from '../build/bill-contents.js';
import { billWorkbook, billXml } from '../build/issued-files.js';
import { isReleased } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { number, orNull, readRows, text, time, word } from '../database/read-rows.js';
import type { JoinService } from '../fetch/join.service.js';
import { sceneGlb } from '../jobs/scene-glb.js';
import type { PrintService } from '../mark-up/print.service.js';
import { geometryOf, keyOf, meshPath } from '../meshes/geometry-source.js';
import type { SceneService } from '../meshes/scene.service.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import { siteDay } from '../database/site-day.js';

interface Wanted {
  readonly id: string;
  readonly versionId: string;
  readonly kind: IssuedKind;
  readonly part: number;
  readonly baseline: string | null;
  readonly state: string;
  readonly by: string;
  readonly notes: string;
  readonly at: Date;
}

interface Made {
  readonly name: string;
  readonly bytes: Uint8Array;
  readonly remarks?: readonly string[];
}

export interface IssuedMakers {
  readonly prints: PrintService;
  readonly joiner: JoinService;
  readonly boms: BillFileService;
  readonly scenes: SceneService;
  readonly bills: BillContents;
}

/** Makes one issued file and puts it beside its version, unless it is there already. */
export class IssuedMaker {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly blobs: BlobStore,
    private readonly makers: IssuedMakers,
  ) {}

  /**
   * @param person who sees everything that is to be in it
   * @throws ProblemError where it cannot be made of what was released
   */
  async make(file: string, person: Person): Promise<void> {
    const wanted = await this.wanted(file);
    if (!wanted) return;
    const version = (await this.catalogue.describe([wanted.versionId])).get(wanted.versionId);
    if (!version) throw new Error(`version ${wanted.versionId} of an issued file is not there`);
    const { name, bytes, remarks = [] } = await this.made(wanted, version, person);
    const { sha256, size } = await keepBlob(this.database, this.blobs, bytes);
    // Whoever made it meanwhile was first; there is never a second one.
    await this.database.query(
      `WITH made AS (
         UPDATE issued_file SET name = $2, size = $3, sha256 = $4, remarks = $5, made_at = now(), problem = NULL, left_out = NULL
         WHERE id = $1 AND made_at IS NULL RETURNING id, version_id, baseline_id)
       INSERT INTO issued_content (file_id, item_id)
       SELECT made.id, held FROM made, issued_holds(made.version_id, made.baseline_id) AS held`,
      [file, name, size, sha256, remarks],
    );
  }

  private async wanted(file: string): Promise<Wanted | undefined> {
    const [row] = await readRows<Wanted>(
      this.database,
      {
        ...{ id: text, versionId: text, kind: word<IssuedKind>(), part: number, baseline: orNull(text) },
        ...{ state: text, by: text, notes: text, at: time },
      },
      `SELECT f.id, f.version_id AS "versionId", f.kind, f.part, f.baseline_id AS baseline, f.state, p.name AS by, f.notes,
              f.asked_at AS at FROM issued_file f JOIN person p ON p.id = f.person_id WHERE f.id = $1 AND f.made_at IS NULL`,
      [file],
    );
    return row;
  }

  private async made(wanted: Wanted, version: DescribedVersion, person: Person): Promise<Made> {
    const base = `${version.number} ${version.label}`.replace(/[/:\\]/g, '-');
    const lens = wanted.baseline === null ? 'recorded' : `baseline ${wanted.baseline}`;
    switch (wanted.kind) {
      case 'PDF':
        return { name: `${base}.pdf`, ...(await this.page(wanted, version)) };
      case 'STEP':
        return { name: `${base}.stp`, bytes: (await this.makers.joiner.joined(version, lens, person)).bytes };
      case 'glTF':
        return { name: `${base}.glb`, ...(await this.shape(version, lens, person)) };
      case 'BOM as XLSX':
        return this.bom(version, { lens, format: 'xlsx', name: `${base} BOM.xlsx` }, person);
      case 'BOM as CSV':
        return this.bom(version, { lens, format: 'csv', name: `${base} BOM.csv` }, person);
      case 'BOM as XML':
        return this.bom(version, { lens, format: 'xml', name: `${base} BOM.xml` }, person);
      case 'bill as XLSX':
        return this.workbook(wanted, version, base);
      case 'bill as XML': {
        const bill = await this.makers.bills.read(version);
        return { name: `${base}.xml`, bytes: Buffer.from(billXml(bill, version, wanted.at)) };
      }
    }
  }

  private async page({ state, at }: Wanted, version: DescribedVersion): ReturnType<PrintService['stamped']> {
    const day = await siteDay(this.database, at);
    const revision = version.label.slice(0, version.label.lastIndexOf('/'));
    const stamp = `${version.number} · revision ${revision} (${version.label}) · ${state} ${day}`;
    return this.makers.prints.stamped(version, { stamp, made: day });
  }

  private async bom(
    version: DescribedVersion,
    {
      lens,
      format,
      name,
    }: { readonly lens: LensText; readonly format: 'xlsx' | 'csv' | 'xml'; readonly name: string },
    person: Person,
  ): Promise<Made> {
    const item = `${version.number}@${version.label}`;
    const made = await this.makers.boms.file(
      { item, lens, format, flat: false, columns: [], sheets: 'one' },
      person,
    );
    return { name, bytes: bytesOf(made) };
  }

  private async shape(
    version: DescribedVersion,
    lens: LensText,
    person: Person,
  ): Promise<Pick<Made, 'bytes' | 'remarks'>> {
    const item = `${version.number}@${version.label}`;
    const { files, nodes } = await this.makers.scenes.placed({ item, lens }, person);
    const read = await Promise.all(
      files.map(async ({ version: of, at, nodes: uses }) => {
        const path = meshPath(this.blobs.folder, keyOf(geometryOf(of)));
        return { of, at, nodes: uses, packed: await readFile(path).catch(() => undefined) };
      }),
    );
    const parts = read.flatMap(({ packed, at, nodes: uses }) => (packed ? { packed, at, nodes: uses } : []));
    if (parts.length === 0)
      throw new ProblemError('NO_GEOMETRY', `Nothing of ${version.number} has a shape of its own.`);
    const names = nodes.map(({ parent, number: of, use }) => ({
      parent,
      name: use === '' || use === of ? of : `${of} ${use}`,
    }));
    return {
      bytes: await sceneGlb(`${version.number} ${version.label}`, names, parts),
      remarks: read.flatMap(({ of, packed }) => (packed ? [] : `${of.number} ${of.label} has no shape`)),
    };
  }

  private async workbook(wanted: Wanted, version: DescribedVersion, base: string): Promise<Made> {
    const bill: BuildBill = await this.makers.bills.read(version);
    const template = bill.outputs[wanted.part] ?? '';
    const bytes = template === '' ? undefined : await this.templateOf(template);
    const name = wanted.part === 0 ? `${base}.xlsx` : `${base} ${wanted.part + 1}.xlsx`;
    try {
      return { name, bytes: await billWorkbook(bill, version, wanted, bytes) };
    } catch (error) {
      if (!(error instanceof FormatError)) throw error;
      throw new ProblemError('INPUT_INVALID', error.message);
    }
  }

  /** The newest released version of a template, or the newest. */
  private async templateOf(template: string): Promise<Uint8Array> {
    const [row] = await readRows(
      this.database,
      { sha256: text },
      `SELECT v.sha256 FROM item i JOIN version v ON v.item_id = i.id JOIN revision r ON r.id = v.revision_id
       WHERE i.number_key = $1 ORDER BY (${isReleased()}) DESC, v.ordinal DESC LIMIT 1`,
      [numberKey(template)],
    );
    if (!row) throw new ProblemError('INPUT_INVALID', `There is no template ${template} in the store.`);
    return this.blobs.read(row.sha256);
  }
}

function bytesOf({ base64 }: FileAnswer): Uint8Array {
  return Buffer.from(base64, 'base64');
}
