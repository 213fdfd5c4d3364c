/** An order moves all that it makes: by whatever step each lifecycle has to what is locked alike. */
import type { Diagram, DiagramStep, StateBook } from '../lifecycle/diagram.js';

/**
 * Steps that may go along with one of an order: from where something stands, to the lane to which the order goes. That of the same
 * name stands first, then those that lead to what counts as released, then the others as in the diagram.
 *
 * @returns `stays` where the order's step moves nothing: within a lane, out of use, or to where it stands already
 */
export function stepsAlong(
  order: { readonly step: string; readonly from: string; readonly to: string },
  own: { readonly diagram: Diagram; readonly state: string },
  book: StateBook,
): readonly DiagramStep[] | 'stays' {
  const to = book.get(order.to)?.lane;
  if (to === undefined || to === book.get(order.from)?.lane || to === 'out of use') return 'stays';
  if (book.get(own.state)?.lane === to) return 'stays';
  const fit = ({ name, to: there }: DiagramStep): number =>
    name === order.step ? 2 : book.get(there)?.isReleased === true ? 1 : 0;
  return own.diagram.steps
    .filter((step) => step.from.includes(own.state) && book.get(step.to)?.lane === to)
    .sort((one, other) => fit(other) - fit(one));
}
