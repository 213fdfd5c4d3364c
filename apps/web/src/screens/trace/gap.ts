/** What is said where a reference leads nowhere. */

interface Gap {
  /** Whether the item is there, only not under the lens. */
  readonly isInStore?: boolean;
}

/** A mark of two or three words. */
export function sayGap({ isInStore }: Gap): string {
  return isInStore ? 'not under this lens' : 'gap';
}

/** @param locator what the file calls its target; empty where that is not known */
export function gapLines({ isInStore }: Gap, locator = ''): string[] {
  if (isInStore)
    return [
      'The item is in the store, but has no version under this lens.',
      'Choose another lens to see it.',
    ];
  return [
    'A gap: what the file refers to is not in the store.',
    ...(locator === '' ? [] : [`The file calls it: ${locator}`]),
    'Bring in the missing file at that place, and the gap closes by itself.',
  ];
}
