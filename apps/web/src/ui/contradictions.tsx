import styled from 'styled-components';
import { Button, Choice, Mono, Soft } from './controls.js';
import { colour } from './theme.js';

/** Something that two sides changed, each in its own way. */
export interface ContradictionRow {
  readonly key: string;
  readonly number: string;
  readonly name: string;
  /** What of it. */
  readonly what: string;
  /** Before either changed it. */
  readonly base: string;
  /** What each side says, in the order of the sides; empty where it says nothing. */
  readonly says: readonly string[];
}

export interface ContradictionListProps<S extends string> {
  readonly rows: readonly ContradictionRow[];
  readonly sides: readonly { readonly key: S; readonly text: string; readonly everywhere: string }[];
  readonly decisions: Readonly<Record<string, S>>;
  readonly onDecide: (decisions: Readonly<Record<string, S>>) => void;
}

/** Contradictions side by side, for somebody to decide one by one or all at once. */
export function ContradictionList<S extends string>({
  rows,
  sides,
  decisions,
  onDecide,
}: ContradictionListProps<S>): React.JSX.Element {
  const open = rows.filter(({ key }) => decisions[key] === undefined).length;
  return (
    <div role="group" aria-label="Contradictions">
      <Head>
        <h3>
          Both sides changed: {rows.length}, {open} to decide
        </h3>
        {sides.map(({ key: side, everywhere }) => (
          <Button
            key={side}
            onPress={() =>
              onDecide({ ...decisions, ...Object.fromEntries(rows.map(({ key }) => [key, side])) })
            }
          >
            {everywhere}
          </Button>
        ))}
      </Head>
      <Listed>
        {rows.map(({ key, number, name, what, base, says }) => (
          <li key={key}>
            <span>
              <Mono>{number}</Mono> {name}, {what}: <Soft>was {base || 'empty'}</Soft>
            </span>
            <Choice
              label={`${number || name}, ${what}`}
              options={sides.map(({ key: side, text }, at) => ({
                key: side,
                text: `${text}: ${says[at] || 'empty'}`,
              }))}
              value={decisions[key] ?? ('' as S)}
              onChange={(side) => onDecide({ ...decisions, [key]: side })}
            />
          </li>
        ))}
      </Listed>
    </div>
  );
}

/** Rows of a dialog that are read and not walked through. */
export const Listed = styled.ul`
  margin: 0;
  padding: 0;
  list-style: none;
  max-height: 32vh;
  overflow: auto;
  border: 1px solid ${colour.line};
  border-radius: 3px;
  li {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 10px;
    padding: 5px 10px;
    border-bottom: 1px solid ${colour.line};
  }
`;
const Head = styled.div`
  display: flex;
  align-items: center;
  gap: 8px;
  h3 {
    flex: 1;
  }
`;
