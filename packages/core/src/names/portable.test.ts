import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { nameFold, portableName, portablePath } from './portable.js';

describe('a name that every system can hold', () => {
  it.each([
    ['leaf.stp', 'leaf.stp'],
    ['leaf:1.stp', 'leaf_1.stp'],
    ['a\\b.stp', 'a_b.stp'],
    ['tab\there.stp', 'tab_here.stp'],
    ['end.', 'end_'],
    ['end. ', 'end__'],
    [' start.stp', '_start.stp'],
    ['CON', '_CON'],
    ['con.stp', '_con.stp'],
    ['contact.stp', 'contact.stp'],
    ['Lpt1.dxf', '_Lpt1.dxf'],
    ['..', '__'],
    ['Plate%20left.stp', 'Plate%20left.stp'],
    ['.hidden', '.hidden'],
  ])('%j is kept as %j', (name, kept) => {
    expect(portableName(name)).toBe(kept);
  });

  it('is the same when it is made again, never empty, and never too long', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (name) => {
        const kept = portableName(name);
        expect(portableName(kept)).toBe(kept);
        expect(kept).not.toMatch(/[/\\:]|^\.{1,2}$|[. ]$/);
        expect(kept.length).toBeGreaterThan(0);
        expect(encodeURIComponent(kept).replace(/%../g, 'x').length).toBeLessThanOrEqual(240);
      }),
    );
  });

  it('is made part by part in a path', () => {
    expect(portablePath('/aux/x:y/p.stp')).toBe('/_aux/x_y/p.stp');
  });
});

it('two forms of one name are the same', () => {
  expect(nameFold('Ü.STP')).toBe(nameFold('u\u0308.stp'));
});
