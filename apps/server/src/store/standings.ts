/** Where revisions stand in their lifecycles, and what their next steps depend on. */
import type { OfferedStep } from '@stem-trace/contract';
import {
  RIGHTS,
  rightFor,
  stateNamed,
  sayMeaning,
  stepsNow,
  type Diagram,
  type GivenSignature,
  type Right,
  type Standing,
  type StepSubject,
  type StepTaker,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { json, listOf, number, readRows, text } from '../database/read-rows.js';
import type { DescribedVersion } from './catalogue.service.js';
import { ordersOf, type OrderOf } from './changes.js';
import { holdsOf } from './holds.js';

export interface RevisionStanding {
  readonly revisionId: string;
  readonly diagram: Diagram;
  /** How often it has moved; signatures count for where it has stood since. */
  readonly moves: number;
  readonly standing: Standing;
  readonly given: readonly OpenSignature[];
  readonly subject: StepSubject;
  /** Id of whoever sent it on from being open. */
  readonly senderId: string | undefined;
}

/** Given for a step that wants more. */
export interface OpenSignature extends GivenSignature {
  readonly name: string;
  /** Digest of what was signed. */
  readonly content: string;
}

/** Who tries a step on an item, in the words of the lifecycle, which knows people by what they sign in as. */
export function takerAt(placeId: string, { login, role }: Person, rights: Rights): StepTaker {
  const own = new Set<Right>(RIGHTS.filter((right) => rights.may(right, placeId)));
  return { id: login, role, rights: own };
}

/** Steps that one may take, or sign for, as things stand. */
export function offeredAt(
  { diagram, standing, given, subject }: RevisionStanding,
  by: StepTaker,
): OfferedStep[] {
  const steps = stepsNow(diagram, standing, by, subject).filter((step) =>
    by.rights.has(rightFor(diagram, step)),
  );
  return steps.map((step) => ({
    ...{ name: step.name, from: standing.state, to: step.to, asksReason: step.asksReason },
    says: sayMeaning(diagram, step),
    isHandingOn:
      stateNamed(diagram, standing.state)?.lane === 'open' &&
      stateNamed(diagram, step.to)?.lane === 'under check',
    signatures: step.signatures
      ? {
          count: step.signatures.count,
          given: given.flatMap((each) => (each.step === step.name ? each.name : [])),
        }
      : null,
  }));
}

/** Whether one may decide about it now, rather than change it or send it on, and has not signed a decision already. */
export function decidesAt({ diagram, standing, given, subject }: RevisionStanding, by: StepTaker): boolean {
  return (
    by.rights.has('release') &&
    !given.some(({ personId }) => personId === by.id) &&
    stepsNow(diagram, standing, by, subject).some((step) => rightFor(diagram, step) === 'release')
  );
}

/**
 * @param versions the newest of items, one for each
 * @param rights of whoever is told why a step is refused; without them a change order is not named
 * @returns by item id; a handful of statements, however many there are
 */
export async function standingsOf(
  manager: EntityManager,
  versions: readonly DescribedVersion[],
  rights?: Rights,
): Promise<Map<string, RevisionStanding>> {
  const itemIds = versions.map(({ itemId }) => itemId);
  const rows = await readRows(
    manager,
    {
      itemId: text,
      revisionId: text,
      state: text,
      lifecycle: text,
      moves: number,
      authors: listOf(text),
      given: json<readonly OpenSignature[]>(),
    },
    `SELECT v.item_id AS "itemId", r.id AS "revisionId", r.state, r.lifecycle_version_id AS lifecycle, r.moves,
            (SELECT array_agg(DISTINCT p.login) FROM version w JOIN person p ON p.id = w.author_id WHERE w.revision_id = r.id) AS authors,
            coalesce((SELECT jsonb_agg(jsonb_build_object('step', s.step, 'personId', s.login, 'name', s.name, 'content', s.content)
                ORDER BY s.id) FROM signature s WHERE s.revision_id = r.id AND s.moves = r.moves AND s.version_id = v.id), '[]') AS given
     FROM version v JOIN revision r ON r.id = v.revision_id WHERE v.id = ANY($1::bigint[])`,
    [versions.map(({ id }) => id)],
  );
  const diagrams = await diagramsOf(
    manager,
    rows.map(({ lifecycle }) => lifecycle),
  );
  const senders = await sendersOf(manager, itemIds);
  const holds = await holdsOf(manager, itemIds);
  const orders = await ordersOf(manager, itemIds);
  return new Map(
    rows.map(({ itemId, revisionId, state, lifecycle, moves, authors, given }) => {
      const diagram = diagrams.get(lifecycle);
      if (!diagram) throw new Error(`the version ${lifecycle} of a lifecycle is missing`);
      const sender = senders.get(itemId);
      const subject: StepSubject = {
        authors: new Set(authors),
        sender: sender && { id: sender.login, name: sender.name },
        heldBy: holds.get(itemId)?.name,
        movedBy: sayOrder(orders.get(itemId), rights),
      };
      const standing = { state, signatures: given };
      return [itemId, { revisionId, diagram, moves, standing, given, subject, senderId: sender?.id }];
    }),
  );
}

function sayOrder(order: OrderOf | undefined, rights: Rights | undefined): string | undefined {
  if (!order) return undefined;
  return rights?.may('see', order.orderPlaceId) ? order.order : 'a change order';
}

async function diagramsOf(manager: EntityManager, ids: readonly string[]): Promise<Map<string, Diagram>> {
  const rows = await readRows(
    manager,
    { id: text, diagram: json<Diagram>() },
    'SELECT id, diagram FROM lifecycle_version WHERE id = ANY($1::bigint[])',
    [[...new Set(ids)]],
  );
  return new Map(rows.map(({ id, diagram }) => [id, diagram]));
}

interface Sender {
  readonly id: string;
  readonly login: string;
  readonly name: string;
}

/** By item, who sent it on from being open last. */
async function sendersOf(
  manager: EntityManager,
  itemIds: readonly string[],
): Promise<ReadonlyMap<string, Sender>> {
  const rows = await readRows(
    manager,
    { itemId: text, id: text, login: text, name: text },
    `SELECT DISTINCT ON (e.item_id) e.item_id AS "itemId", p.id, p.login, p.name
     FROM event e JOIN person p ON p.id = e.person_id
     JOIN state f ON f.name = e.detail->>'from' AND f.lane = 'open' JOIN state t ON t.name = e.detail->>'to' AND t.lane <> 'open'
     WHERE e.kind = 'step' AND e.item_id = ANY($1::bigint[]) ORDER BY e.item_id, e.id DESC`,
    [itemIds],
  );
  return new Map(rows.map(({ itemId, ...sender }) => [itemId, sender]));
}
