/** Other items that a recorded sentence names. What a person typed into it is not looked at: that would confirm guesses. */
export interface Mention {
  /** Id of the item. */
  readonly item: string;
  readonly number: string;
}

/**
 * Column with the numbers that a reader must not be told.
 *
 * @param mentions SQL of a JSON list of `Mention`, or of null
 * @param hidden parameter with the places that the reader may not see
 */
export function veiledNumbers(mentions: string, hidden: string): string {
  return `ARRAY(SELECT m->>'number' FROM jsonb_array_elements(coalesce(${mentions}, '[]')) m JOIN item x ON x.id = (m->>'item')::bigint
    WHERE x.place_id = ANY(${hidden}::bigint[]))`;
}

/** A sentence without the numbers that its reader must not be told. */
export function withoutNumbers(says: string, veiled: readonly string[]): string {
  return veiled.reduce((said, number) => said.replaceAll(number, 'an item that you have no access to'), says);
}
