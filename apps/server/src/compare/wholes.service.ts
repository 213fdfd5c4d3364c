import { Injectable } from '@nestjs/common';
import type { WholeDifference } from '@stem-trace/contract';
import { isSameText, sayValue, type PropertyValue } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import { readRows, text } from '../database/read-rows.js';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { propertiesOf } from '../store/facts.js';

/** Validation properties of a file's geometry (ISO 10303-59, CAx-IF): what a shape is known by. */
const GEOMETRY = ['volume', 'surface', 'centroid'];

/** In what two versions themselves differ, apart from what they are made of. */
@Injectable()
export class WholesService {
  constructor(private readonly database: DataSource) {}

  /** @returns nothing where nothing differs that the store knows of */
  async compare(from: DescribedVersion, to: DescribedVersion, rights: Rights): Promise<WholeDifference[]> {
    if (from.id === to.id) return [];
    const differences: WholeDifference[] = [];
    const note = (what: string, before: string, after: string): void => {
      if (!isSameText(before, after)) differences.push({ what, before, after });
    };
    // Another item, such as a variant, is called otherwise; the sentence names both.
    if (from.itemId === to.itemId) {
      note('name in the file', from.nameInFile, to.nameInFile);
      note('name', from.name, to.name);
      note('version text in the file', from.facts.versionText, to.facts.versionText);
    }
    note('description', from.facts.description, to.facts.description);
    const [before, after] = [byName(propertiesOf(from)), byName(propertiesOf(to))];
    const names = [...new Set([...before.keys(), ...after.keys()])].sort();
    for (const name of names) note(name, sayOf(before.get(name)), sayOf(after.get(name)));
    if (from.sha256 !== to.sha256) differences.push(fileDifference(from, to, before, after));
    const papers = await this.papersOf([from, to], rights);
    note('drawings and documents', papers.get(from.id) ?? '', papers.get(to.id) ?? '');
    return differences;
  }

  /** Drawings and documents whose newest versions are about the items, with their versions. */
  private async papersOf(
    versions: readonly DescribedVersion[],
    rights: Rights,
  ): Promise<Map<string, string>> {
    // Of one item both sides have the same.
    const [first, second] = versions;
    if (!first || !second || first.itemId === second.itemId) return new Map();
    const rows = await readRows(
      this.database,
      { item: text, number: text, name: text },
      `SELECT DISTINCT l.target_item_id::text AS item, p.number, p.name FROM link l JOIN item p ON p.newest_version_id = l.version_id
       WHERE l.target_item_id = ANY($1::bigint[]) AND l.relation IN ('depicts', 'describes') AND p.place_id <> ALL($2::bigint[])
       ORDER BY 2`,
      [versions.map(({ itemId }) => itemId), rights.placesWithout('see')],
    );
    const said = (itemId: string): string =>
      rows
        .filter(({ item }) => item === itemId)
        .map(({ name }) => name)
        .join(', ');
    return new Map(versions.map(({ id, itemId }) => [id, said(itemId)]));
  }
}

function byName(properties: readonly PropertyValue[]): Map<string, PropertyValue> {
  return new Map(properties.map((property) => [property.name.toLowerCase(), property]));
}

function sayOf(property: PropertyValue | undefined): string {
  return property ? sayValue(property) : '';
}

/** Other bytes; whether the geometry is another one too, as far as the files state it. */
function fileDifference(
  from: DescribedVersion,
  to: DescribedVersion,
  before: ReadonlyMap<string, PropertyValue>,
  after: ReadonlyMap<string, PropertyValue>,
): WholeDifference {
  const stated = GEOMETRY.filter((name) => before.has(name) && after.has(name));
  const isSameShape = stated.every((name) => isSameText(sayOf(before.get(name)), sayOf(after.get(name))));
  const says =
    stated.length === 0
      ? 'other bytes; the files do not state their geometry'
      : isSameShape
        ? `other bytes, same geometry by ${stated.join(', ')}`
        : 'other bytes, other geometry';
  return { what: 'file', before: from.storedFileName, after: `${to.storedFileName} (${says})` };
}
