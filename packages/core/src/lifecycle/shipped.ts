/** The lifecycle that ships; an administrator can change it, and make others. */
import { bookOf, type Diagram, type StateBook, type StepBy } from './diagram.js';

const ENGINEER: StepBy = { kind: 'role', role: 'engineer' };
const CHECKER: StepBy = { kind: 'role', role: 'checker' };
const PLANNER: StepBy = { kind: 'role', role: 'planner' };
const ADMINISTRATOR: StepBy = { kind: 'role', role: 'administrator' };
const PLAIN = { notByAuthors: false, asksReason: false, isOverUnreleased: false, then: [] } as const;

export const SHIPPED: Diagram = {
  name: 'Items',
  first: 'draft',
  states: [
    { name: 'draft', lane: 'open', isReleased: false, glyph: 'dashed ring' },
    { name: 'in check', lane: 'under check', isReleased: false, glyph: 'rising ring' },
    { name: 'released', lane: 'locked', isReleased: true, glyph: 'cut square' },
    { name: 'superseded', lane: 'locked', isReleased: true, glyph: 'cut square in outline' },
    { name: 'withdrawn', lane: 'out of use', isReleased: false, glyph: 'crossed ring' },
  ],
  steps: [
    {
      ...{ ...PLAIN, name: 'ask for check', from: ['draft'], to: 'in check' },
      done: 'sent … for checking',
      who: [ENGINEER, PLANNER, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [CHECKER] }],
    },
    {
      ...{ ...PLAIN, name: 'take back', from: ['in check'], to: 'draft' },
      done: 'took … back from checking',
      who: [{ kind: 'sender' }, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [CHECKER] }],
    },
    {
      ...{ ...PLAIN, name: 'release', from: ['in check'], to: 'released' },
      done: 'released …',
      who: [CHECKER, ADMINISTRATOR],
      then: [
        { kind: 'supersede', to: 'superseded' },
        { kind: 'tell', who: [{ kind: 'sender' }] },
      ],
    },
    {
      ...{ ...PLAIN, name: 'send back', from: ['in check'], to: 'draft', asksReason: true },
      done: 'sent … back',
      who: [CHECKER, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [{ kind: 'sender' }] }],
    },
    {
      ...{ ...PLAIN, name: 'withdraw', from: ['draft', 'released'], to: 'withdrawn', asksReason: true },
      done: 'withdrew …',
      who: [ADMINISTRATOR],
    },
  ],
};

/** The states of a store in which nobody has changed anything. */
export const SHIPPED_STATES: StateBook = bookOf(SHIPPED.states);
