import { useEffect } from 'react';

export interface KeyBinding {
  readonly key: string;
  readonly says: string;
  run(): void;
}

/** Keys that work wherever the focus is, except while somebody types. */
export function useKeys(bindings: readonly KeyBinding[]): void {
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
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

function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  return (
    target.isContentEditable ||
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement ||
    (target instanceof HTMLInputElement && !['checkbox', 'radio', 'button', 'file'].includes(target.type))
  );
}
