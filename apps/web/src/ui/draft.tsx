/** What is typed into a form and not sent yet: it outlives the form, a reload and the tab. */
import { createContext, useContext, useState } from 'react';
import { QuietButton, Soft } from './controls.js';
import { keep, readKept } from './kept.js';

const Owner = createContext('');
/** Whose drafts they are: nobody finds what somebody else typed. */
export const DraftOwner = Owner.Provider;

const KEPT_FOR_MS = 7 * 24 * 3600 * 1000;

export interface Draft<T> {
  readonly value: T;
  set(value: T): void;
  /** Whether it was typed before the form was opened this time. */
  readonly isRestored: boolean;
  /** After sending, and where somebody cancels: the next form begins anew. */
  forget(): void;
}

/**
 * @param form what the form is about, with the item's number; nothing is kept where absent, as for passwords
 * @param isIt whether something that was kept is a draft of this form
 */
export function useDraft<T>(
  form: string | undefined,
  isIt: (value: unknown) => value is T,
  first: T,
): Draft<T> {
  const owner = useContext(Owner);
  const key = form === undefined ? undefined : `draft.${owner}.${form}`;
  const [restored] = useState(() => (key === undefined ? undefined : restore(key, isIt)));
  const [value, setValue] = useState(restored ?? first);
  const [isRestored, setRestored] = useState(restored !== undefined);
  const begin = (): void => {
    if (key !== undefined) keep(key, undefined);
    setRestored(false);
    setValue(first);
  };
  return {
    value,
    set: (next) => {
      setValue(next);
      if (key !== undefined) keep(key, { at: Date.now(), value: next });
    },
    isRestored,
    forget: begin,
  };
}

function restore<T>(key: string, isIt: (value: unknown) => value is T): T | undefined {
  const kept = readKept(key, isKept);
  if (kept === undefined) return undefined;
  if (kept.at > Date.now() - KEPT_FOR_MS && isIt(kept.value)) return kept.value;
  keep(key, undefined);
  return undefined;
}

function isKept(value: unknown): value is { readonly at: number; readonly value: unknown } {
  return (
    typeof value === 'object' &&
    value !== null &&
    'value' in value &&
    'at' in value &&
    typeof value.at === 'number'
  );
}

export function isText(value: unknown): value is string {
  return typeof value === 'string';
}

export function isTexts(value: unknown): value is Readonly<Record<string, string>> {
  return typeof value === 'object' && value !== null && Object.values(value).every(isText);
}

/** Says that what stands in the form was typed before. */
export function Restored({
  draft: { isRestored, forget },
}: {
  readonly draft: Pick<Draft<unknown>, 'isRestored' | 'forget'>;
}): React.JSX.Element | null {
  if (!isRestored) return null;
  return (
    <div role="status">
      <Soft>Restored: what you typed before.</Soft> <QuietButton onPress={forget}>Start over</QuietButton>
    </div>
  );
}
