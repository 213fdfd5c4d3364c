import type { LifecycleState } from '../../lifecycle/lifecycle.js';
import type { Net, NetNode } from './net.js';

/** A sum over everything below, and how much of it nobody knows. */
export interface RolledSum {
  readonly value: number;
  /** Lines of the structure that say nothing, of all lines that should. */
  readonly unknown: number;
  readonly of: number;
}

export interface RollUp {
  readonly massKg: RolledSum;
  readonly cost: RolledSum;
  /** The least far in the lifecycle, of the node itself and everything below; null where all are gaps. */
  readonly worst: LifecycleState | null;
  /** Links below whose recorded version is not the newest, and references that lead nowhere; each line counted. */
  readonly behind: number;
  readonly gaps: number;
  /** Lines below, with all levels open. */
  readonly lines: number;
}

/** From what wants attention most to what wants none. */
const WORST: readonly LifecycleState[] = ['withdrawn', 'draft', 'in check', 'superseded', 'released'];

/**
 * Sums over everything below each node, for one of it. What is made of something weighs and costs what that does; an own
 * value counts where there is nothing below. A line is a position in the tree with all levels open, so that a part used
 * in two places is two lines. `O(nodes + links)`
 */
export function rollUp(net: Net): readonly RollUp[] {
  const done: RollUp[] = [];
  for (const at of net.inwards()) {
    const node = net.nodes[at];
    if (!node) continue;
    const links = net.below(at);
    if (links.length === 0) {
      done[at] = {
        massKg: own(node, node.massKg),
        cost: own(node, node.cost),
        worst: node.state,
        behind: 0,
        gaps: node.isGap ? 1 : 0,
        lines: 0,
      };
      continue;
    }
    let [worst, behind, gaps, lines] = [node.state, 0, 0, 0];
    const massKg = { value: 0, unknown: 0, of: 0 };
    const cost = { value: 0, unknown: 0, of: 0 };
    for (const link of links) {
      const child = done[link.to];
      if (!child) continue;
      add(massKg, child.massKg, link.quantity);
      add(cost, child.cost, link.quantity);
      worst = worse(worst, child.worst);
      behind += child.behind + (link.behind > 0 ? 1 : 0);
      gaps += child.gaps;
      lines += child.lines + 1;
    }
    // A drawing or a document that something needs to be complete weighs nothing; the value is then its own.
    const isBuilt = links.some(({ to }) => !isPaper(net.nodes[to]));
    done[at] = {
      massKg: isBuilt ? massKg : own(node, node.massKg),
      cost: isBuilt ? cost : own(node, node.cost),
      worst,
      behind,
      gaps,
      lines,
    };
  }
  return done;
}

function isPaper(node: NetNode | undefined): boolean {
  return node?.kind === 'drawing' || node?.kind === 'document';
}

function own(node: NetNode, value: number | undefined): RolledSum {
  if (isPaper(node) && value === undefined) return { value: 0, unknown: 0, of: 0 };
  return { value: value ?? 0, unknown: value === undefined ? 1 : 0, of: 1 };
}

function add(sum: { value: number; unknown: number; of: number }, child: RolledSum, quantity: number): void {
  sum.value += child.value * quantity;
  sum.unknown += child.unknown;
  sum.of += child.of;
}

function worse(a: LifecycleState | null, b: LifecycleState | null): LifecycleState | null {
  if (a === null || b === null) return a ?? b;
  return WORST.indexOf(a) <= WORST.indexOf(b) ? a : b;
}

/** Which of two states wants more attention; below zero where the first does. Nodes without one come last. */
export function compareStates(a: NetNode['state'], b: NetNode['state']): number {
  const rank = (state: NetNode['state']): number => (state === null ? WORST.length : WORST.indexOf(state));
  return rank(a) - rank(b);
}
