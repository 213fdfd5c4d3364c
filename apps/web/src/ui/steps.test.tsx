// @vitest-environment happy-dom
import { act, renderHook } from '@testing-library/react';
import fc from 'fast-check';
import { useState } from 'react';
import { expect, it } from 'vitest';
import { useSteps, type Steps } from './steps.js';

interface Held {
  readonly now: number;
  readonly steps: Steps<number>;
}

function useHeld(): Held {
  const [now, put] = useState(0);
  return { now, steps: useSteps(now, put) };
}

it('any steps, undos and redos are those of a list with a place in it', () => {
  const moves = fc.array(fc.oneof(fc.nat(99), fc.constantFrom('undo' as const, 'redo' as const)), {
    maxLength: 30,
  });
  fc.assert(
    fc.property(moves, (all) => {
      const { result, unmount } = renderHook(useHeld);
      let list = [0];
      let at = 0;
      for (const move of all) {
        act(() => {
          if (typeof move === 'number') result.current.steps.take(move);
          else result.current.steps[move]();
        });
        if (typeof move === 'number') {
          list = [...list.slice(0, at + 1), move];
          at++;
        } else at = Math.max(0, Math.min(list.length - 1, at + (move === 'undo' ? -1 : 1)));
        expect(result.current.now).toBe(list[at]);
        expect(result.current.steps.canUndo).toBe(at > 0);
        expect(result.current.steps.canRedo).toBe(at < list.length - 1);
      }
      act(() => result.current.steps.clear());
      expect([result.current.now, result.current.steps.canUndo]).toEqual([list[at], false]);
      unmount();
    }),
    { numRuns: 40 },
  );
});
