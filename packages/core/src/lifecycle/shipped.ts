/** The lifecycles that ship; an administrator can change them, and make others. */
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
        { kind: 'issue' },
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

/** Of what somebody wants to be changed. What an order answers is settled along with it. */
export const SHIPPED_REQUESTS: Diagram = {
  name: 'Change requests',
  first: 'raised',
  states: [
    { name: 'raised', lane: 'open', isReleased: false, glyph: 'ringed dot' },
    { name: 'taken on', lane: 'open', isReleased: false, glyph: 'half ring' },
    { name: 'settled', lane: 'locked', isReleased: false, glyph: 'diamond' },
    { name: 'refused', lane: 'out of use', isReleased: false, glyph: 'crossed ring' },
    { name: 'joined', lane: 'out of use', isReleased: false, glyph: 'crossed ring' },
  ],
  steps: [
    {
      ...{ ...PLAIN, name: 'take on', done: 'took … on', from: ['raised'], to: 'taken on' },
      who: [ENGINEER, PLANNER, CHECKER, ADMINISTRATOR],
    },
    {
      ...{
        ...PLAIN,
        name: 'put back',
        done: 'put … back',
        from: ['taken on'],
        to: 'raised',
        asksReason: true,
      },
      who: [ENGINEER, PLANNER, CHECKER, ADMINISTRATOR],
    },
    {
      ...{ ...PLAIN, name: 'settle', done: 'settled …', from: ['taken on'], to: 'settled' },
      who: [CHECKER, PLANNER, ADMINISTRATOR],
    },
    {
      ...{ ...PLAIN, name: 'refuse', done: 'refused …', from: ['raised'], to: 'refused', asksReason: true },
      who: [CHECKER, PLANNER, ADMINISTRATOR],
    },
    {
      ...{
        ...PLAIN,
        name: 'join',
        done: 'joined … with another',
        from: ['raised'],
        to: 'joined',
        asksReason: true,
      },
      who: [CHECKER, PLANNER, ADMINISTRATOR],
    },
  ],
};

/** Of the work on a change: whatever it makes goes with it, to the check and out of it. */
export const SHIPPED_ORDERS: Diagram = {
  name: 'Change orders',
  first: 'planned',
  states: [
    { name: 'planned', lane: 'open', isReleased: false, glyph: 'ringed dot' },
    { name: 'under way', lane: 'open', isReleased: false, glyph: 'half ring' },
    { name: 'in check', lane: 'under check', isReleased: false, glyph: 'rising ring' },
    { name: 'carried out', lane: 'locked', isReleased: false, glyph: 'split square' },
    { name: 'abandoned', lane: 'out of use', isReleased: false, glyph: 'crossed ring' },
  ],
  steps: [
    {
      ...{ ...PLAIN, name: 'begin', done: 'began …', from: ['planned'], to: 'under way' },
      who: [ENGINEER, PLANNER, ADMINISTRATOR],
    },
    {
      ...{ ...PLAIN, name: 'ask for check', from: ['under way'], to: 'in check' },
      done: 'sent … for checking',
      who: [ENGINEER, PLANNER, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [CHECKER] }],
    },
    {
      ...{ ...PLAIN, name: 'take back', from: ['in check'], to: 'under way' },
      done: 'took … back from checking',
      who: [{ kind: 'sender' }, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [CHECKER] }],
    },
    {
      ...{
        ...PLAIN,
        name: 'send back',
        done: 'sent … back',
        from: ['in check'],
        to: 'under way',
        asksReason: true,
      },
      who: [CHECKER, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [{ kind: 'sender' }] }],
    },
    {
      ...{ ...PLAIN, name: 'carry out', done: 'carried … out', from: ['in check'], to: 'carried out' },
      who: [],
      signatures: { count: 2, of: [CHECKER, ADMINISTRATOR], isInOrder: false },
      then: [{ kind: 'tell', who: [{ kind: 'sender' }] }],
    },
    {
      ...{ ...PLAIN, name: 'abandon', done: 'abandoned …', from: ['planned', 'under way'], to: 'abandoned' },
      asksReason: true,
      who: [CHECKER, ADMINISTRATOR],
    },
  ],
};

/** The states of a store in which nobody has changed anything. */
export const SHIPPED_STATES: StateBook = bookOf(
  [SHIPPED, SHIPPED_REQUESTS, SHIPPED_ORDERS].flatMap(({ states }) => states),
);
