import { useEffect } from 'react';
import { shownWithScreen } from './shown-with-screen.js';

export interface KeyBinding {
  readonly key: string;
  readonly says: string;
  run(): void;
}

/** A key that a table of the screen takes itself; said with the others. */
export type KeyHint = Omit<KeyBinding, 'run'>;

/** Keys that work wherever the focus is, except while somebody types. */
export function useKeys(bindings: readonly KeyBinding[]): void {
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      // A table that takes typing has had the key already.
      if (event.defaultPrevented) return;
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
      const binding = bindings.find(({ key }) => key === event.key);
      if (!binding) return;
      event.preventDefault();
      binding.run();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [bindings]);
}

/** Keys of a screen, told as long as it is shown, and the keys of the screen that is shown. */
export const { useTold: useKeyHints, useAll: useShownHints } = shownWithScreen<KeyHint>();

function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  return (
    target.isContentEditable ||
    target.getAttribute('role') === 'spinbutton' ||
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement ||
    (target instanceof HTMLInputElement && !['checkbox', 'radio', 'button', 'file'].includes(target.type))
  );
}
