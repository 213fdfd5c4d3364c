import { useEffect, useSyncExternalStore } from 'react';

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

let hints: readonly (readonly KeyHint[])[] = [];
const listeners = new Set<() => void>();

function setHints(next: readonly (readonly KeyHint[])[]): void {
  hints = next;
  for (const listener of listeners) listener();
}

/** Tells the keys of a screen as long as it is shown. @param keys of a constant */
export function useKeyHints(keys: readonly KeyHint[]): void {
  useEffect(() => {
    setHints([...hints, keys]);
    return () => setHints(hints.filter((one) => one !== keys));
  }, [keys]);
}

/** The keys of the screen that is shown. */
export function useShownHints(): readonly KeyHint[] {
  const shown = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => hints,
  );
  return shown.flat();
}

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
