/** Brings together what an origin and its copies each say of themselves and of their uses, for those that are carried over. */
import type { CarryDecision } from '@stem-trace/contract';
import {
  addTo,
  known,
  mergeProperties,
  mergeUseFacts,
  numberKey,
  propertyOfField,
  type CarryContradiction,
  type CarryDecisions,
  type CarrySide,
  sayValue,
  type MadeVersion,
  type PropertyValue,
  type Sides,
  type UseFacts,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { formatOf, withValues, type VersionFacts } from '../store/facts.js';
import { writtenLinks, type NewLink } from '../store/store-writer.js';
import type { Copy } from './carry-targets.js';
import type { Prepared } from './planner.service.js';
import { PlannedUses } from './planned-uses.js';
import { STATED } from './variant-files.js';

export interface BroughtTogether {
  /** Whose file the copy has then. */
  readonly file: CarrySide;
  readonly facts: VersionFacts;
  readonly contradictions: readonly CarryContradiction[];
  /** Contradictions that nobody decided. */
  readonly open: readonly string[];
  readonly keeps: readonly string[];
  /** What bills say of the uses, by `useKeys`. */
  readonly uses: ReadonlyMap<string, UseFacts>;
  /** Links of the copy as it is, where it keeps its file. */
  readonly links: readonly NewLink[];
}

interface TogetherContext {
  readonly copies: ReadonlyMap<string, Copy>;
  readonly bases: ReadonlyMap<string, DescribedVersion>;
  readonly decided: readonly CarryDecision[];
  readonly wanted: readonly { readonly made: MadeVersion; readonly file: CarrySide }[];
}

/** `O(properties + uses)` of those that are wanted. */
export async function broughtTogether(
  manager: EntityManager,
  prepared: Prepared,
  { copies, bases, decided, wanted }: TogetherContext,
): Promise<Map<MadeVersion, BroughtTogether>> {
  const linksOf = await linksByVersion(
    manager,
    wanted.flatMap(({ made }) => {
      const copy = known(copies, made.key);
      return [made.versionId, copy.base, copy.newest.id];
    }),
  );
  const decisions = byNumber(decided);
  const planned = new PlannedUses(prepared);
  return new Map(
    wanted.map(({ made, file }) => {
      const copy = known(copies, made.key);
      const [origin, base] = [known(prepared.versions, made.versionId), known(bases, copy.base)];
      const own = decisions.get(numberKey(copy.newest.number)) ?? new Map<string, CarrySide>();
      const of = <T>(values: (facts: VersionFacts) => T): Sides<T> => ({
        base: values(base.facts),
        origin: values(origin.facts),
        copy: values(copy.newest.facts),
      });
      const options = { decided: own, file, ofFile: saidByFile(prepared, origin) };
      const said = mergeProperties(
        of(({ properties }) => properties),
        options,
      );
      const description = mergeProperties(of(described), options);
      const uses = usesTogether(planned, made, { copies, linksOf, copy, file, decided: own });
      const all = [description, said, uses];
      const contradictions = all.flatMap((each) => each.contradictions);
      const facts = file === 'origin' ? origin.facts : copy.newest.facts;
      const together: BroughtTogether = {
        ...{ file, contradictions, keeps: all.flatMap(({ kept }) => kept), uses: uses.uses },
        facts: {
          ...withValues(facts, said.properties),
          description: description.properties.map(sayValue).join(),
        },
        open: contradictions.flatMap(({ field }) => (own.has(field.toLowerCase()) ? [] : field)),
        links: file === 'copy' ? (linksOf.get(copy.newest.id) ?? []) : [],
      };
      return [made, together];
    }),
  );
}

/** The description is brought together like a property. */
function described({ description: text }: VersionFacts): PropertyValue[] {
  return text === '' ? [] : [{ name: 'description', kind: 'text', text }];
}

/** What comes with a file, whoever changed it: what it measures, and who drew it. */
function saidByFile({ titleBlock }: Prepared, { facts }: DescribedVersion): Set<string> {
  if (formatOf(facts) !== 'dxf') return new Set(STATED);
  const drawn = titleBlock.flatMap(({ tag, means }) =>
    means === 'drawn by' || means === 'drawn on' || means === 'checked'
      ? (propertyOfField(tag, titleBlock)?.toLowerCase() ?? [])
      : [],
  );
  return new Set(['layers', ...drawn]);
}

function byNumber(decided: readonly CarryDecision[]): Map<string, Map<string, CarrySide>> {
  const decisions = new Map<string, Map<string, CarrySide>>();
  for (const { number, field, take } of decided) {
    const own = decisions.get(numberKey(number)) ?? new Map<string, CarrySide>();
    decisions.set(numberKey(number), own.set(field.toLowerCase(), take));
  }
  return decisions;
}

async function linksByVersion(
  manager: EntityManager,
  versions: readonly string[],
): Promise<Map<string, (NewLink & { readonly id: string })[]>> {
  const byVersion = new Map<string, (NewLink & { readonly id: string })[]>();
  for (const link of await writtenLinks(manager, [...new Set(versions)]))
    addTo(byVersion, link.versionId, link);
  return byVersion;
}

/** Keys of links by what they lead to, the first, the second and so on; undefined for what leads to nothing that is known. */
export function useKeys(targets: readonly (string | null | undefined)[]): (string | undefined)[] {
  const counts = new Map<string, number>();
  return targets.map((target) => {
    if (target === null || target === undefined) return undefined;
    const count = counts.get(target) ?? 0;
    counts.set(target, count + 1);
    return `${target} ${count}`;
  });
}

interface UsesContext {
  readonly copies: ReadonlyMap<string, Copy>;
  readonly linksOf: ReadonlyMap<string, readonly (NewLink & { readonly id: string })[]>;
  readonly copy: Copy;
  readonly file: CarrySide;
  readonly decided: CarryDecisions;
}

/** Uses are told apart by what they lead to in the variant. */
function usesTogether(
  planned: PlannedUses,
  made: MadeVersion,
  { copies, linksOf, copy, file, decided }: UsesContext,
): ReturnType<typeof mergeUseFacts> {
  const leadsTo = targetsInVariant(planned, made, copies);
  const labels = new Map([...leadsTo.values()].map(({ itemId, number }) => [itemId, number]));
  const origin = linksOf.get(made.versionId) ?? [];
  const base = linksOf.get(copy.base) ?? [];
  const own = linksOf.get(copy.newest.id) ?? [];
  const ofOrigin = (links: typeof origin): (string | null | undefined)[] =>
    links.map(({ targetItemId }) => leadsTo.get(targetItemId ?? '')?.itemId);
  const sides = {
    base: factsByKey(base, ofOrigin(base)),
    origin: factsByKey(origin, ofOrigin(origin)),
    copy: factsByKey(
      own,
      own.map(({ targetItemId }) => targetItemId),
    ),
  };
  const uses = [...sides[file].keys()].map((key) => {
    const [itemId = '', at = '0'] = key.split(' ');
    const label = labels.get(itemId) ?? 'another item';
    return { key, label: at === '0' ? label : `${label}, ${Number(at) + 1}` };
  });
  return mergeUseFacts(uses, sides, decided);
}

function factsByKey(
  links: readonly NewLink[],
  targets: readonly (string | null | undefined)[],
): Map<string, UseFacts> {
  return new Map(
    useKeys(targets).flatMap((key, at): [string, UseFacts][] => {
      const link = links[at];
      if (key === undefined || !link || link.relation !== 'component') return [];
      const { find = '', amount, occurrences } = link;
      const designators = occurrences.map(({ designator }) => designator ?? '');
      return [[key, { find, designators, ...(amount ? { amount } : {}) }]];
    }),
  );
}

/** What the uses of a version lead to in the variant, by the item that they lead to in the origin. */
function targetsInVariant(
  planned: PlannedUses,
  made: MadeVersion,
  copies: ReadonlyMap<string, Copy>,
): Map<string, { readonly itemId: string; readonly number: string }> {
  const { uses } = planned.of(made);
  const targets = new Map<string, { readonly itemId: string; readonly number: string }>();
  planned.childrenOf(made).forEach((version, at) => {
    const becomes = uses[at]?.[0];
    if (!version || !becomes || targets.has(version.itemId)) return;
    if (becomes.kind === 'item') targets.set(version.itemId, becomes.item);
    else if (becomes.kind === 'share') targets.set(version.itemId, version);
    else if (becomes.kind === 'copy') {
      const target = copies.get(becomes.key);
      if (target) targets.set(version.itemId, target.newest);
    }
  });
  return targets;
}

/** Links that say of their uses what was brought together; no find number stands twice. */
export function withUseFacts(links: readonly NewLink[], uses: ReadonlyMap<string, UseFacts>): NewLink[] {
  const finds = new Set<string>();
  return useKeys(links.map(({ targetItemId }) => targetItemId)).flatMap((key, at): NewLink[] => {
    const link = links[at];
    if (!link) return [];
    const facts = key === undefined || link.relation !== 'component' ? undefined : uses.get(key);
    if (!facts) return [link];
    const { amount: _, ...rest } = link;
    const find = facts.find !== '' && finds.has(facts.find) ? '' : facts.find;
    finds.add(find);
    return [
      {
        ...rest,
        find,
        occurrences: link.occurrences.map(({ designator: was, ...occurrence }, index) => {
          const designator = facts.designators[index] ?? was;
          return designator === undefined || designator === '' ? occurrence : { ...occurrence, designator };
        }),
        ...(facts.amount ? { amount: facts.amount } : {}),
      },
    ];
  });
}
