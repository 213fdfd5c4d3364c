import { useQueries, useQuery } from '@tanstack/react-query';
import type { ItemView, StructureAnswer, StructureRow } from '@stem-trace/contract';
import { refuseChange, type StateBook } from '@stem-trace/core';
import { useMemo, useState } from 'react';
import { Checkbox } from 'react-aria-components';
import styled from 'styled-components';
import { get } from '../api/client.js';
import { itemQuery } from '../api/queries.js';
import { Button, Field, Mono, PrimaryButton, Soft, Trouble } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { isText, useDraft } from '../ui/draft.js';
import { AttentionMark, StateGlyph } from '../ui/glyphs.js';
import { HolderTag } from '../ui/holder-tag.js';
import { OrderField } from './order-field.js';
import { useStates } from '../ui/states.js';
import { colour } from '../ui/theme.js';

export interface CheckOutLine {
  readonly number: string;
  readonly name: string;
  readonly level: number;
  readonly state: StructureRow['state'];
  readonly heldBy: StructureRow['heldBy'];
  readonly behind: number;
  /** Why it is not available; undefined where it can. */
  readonly refusal: string | undefined;
}

export interface CheckOutDialogProps {
  /** One item with all below it, or just these. */
  readonly items: readonly string[];
  /** What is known of them, where somebody knows it already. */
  readonly lines?: readonly CheckOutLine[];
  readonly onClose: () => void;
  /** @param change number of the change order that it is for; empty for none */
  readonly onChosen: (items: readonly string[], reason: string, change: string) => void;
}

/** What, state, held by whom, behind: each can be chosen, and a reason given. One assembly comes with what is below it. */
export function CheckOutDialog(props: CheckOutDialogProps): React.JSX.Element {
  const [first = '', second] = props.items;
  const { lines } = props;
  if (lines)
    return (
      <Dialog
        {...props}
        lines={lines}
        title={`Check out ${props.items.length} items`}
        first={props.items}
        error={null}
      />
    );
  return second === undefined ? <OneTree {...props} item={first} /> : <Several {...props} />;
}

function OneTree({ item, ...props }: CheckOutDialogProps & { readonly item: string }): React.JSX.Element {
  const tree = useQuery({
    queryKey: ['structure', 'check out', item],
    queryFn: ({ signal }) => get('/api/made', { item, all: true }, signal),
  });
  const book = useStates();
  const lines = useMemo(() => (tree.data ? linesOf(tree.data, book) : []), [tree.data, book]);
  return <Dialog {...props} title={`Check out ${item}`} lines={lines} first={[item]} error={tree.error} />;
}

function Several({ items, ...props }: CheckOutDialogProps): React.JSX.Element {
  const views = useQueries({ queries: items.map((item) => itemQuery(item)) });
  const book = useStates();
  const lines = views.flatMap(({ data }): CheckOutLine[] => (data ? [lineOf(data, book)] : []));
  const error = views.find((view) => view.error)?.error ?? null;
  return (
    <Dialog {...props} {...{ items, lines, error }} title={`Check out ${items.length} items`} first={items} />
  );
}

interface DialogProps extends Omit<CheckOutDialogProps, 'lines'> {
  readonly title: string;
  readonly lines: readonly CheckOutLine[];
  /** What is chosen to begin with. */
  readonly first: readonly string[];
  readonly error: Error | null;
}

function Dialog({ title, lines, first, error, onClose, onChosen }: DialogProps): React.JSX.Element {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(first));
  const reason = useDraft(title, isText, '');
  const [order, setOrder] = useState('');
  const toggle = (number: string): void => {
    const next = new Set(chosen);
    if (!next.delete(number)) next.add(number);
    setChosen(next);
  };
  const free = lines.filter((line) => line.refusal === undefined);
  const taken = free.filter(({ number }) => chosen.has(number));
  return (
    <DialogFrame title={title} widthPx={860} onClose={onClose}>
      {error ? <Trouble>{error.message}</Trouble> : null}
      <Choosing lines={lines} chosen={chosen} onToggle={toggle} />
      <Field
        label="Reason (visible to everyone)"
        value={reason.value}
        onChange={reason.set}
        placeholder="e.g. longer arm for the tide station"
        takesFocus
      />
      <OrderField value={order} onChange={setOrder} />
      <Buttons>
        <Button onPress={() => setChosen(new Set(free.map(({ number }) => number)))}>
          Select all available
        </Button>
        <Soft>{lines.length > free.length ? `${lines.length - free.length} not available` : ''}</Soft>
        <span />
        <Button
          onPress={() => {
            reason.forget();
            onClose();
          }}
        >
          Cancel
        </Button>
        <PrimaryButton
          isDisabled={taken.length === 0}
          onPress={() => {
            reason.forget();
            onChosen(
              taken.map(({ number }) => number),
              reason.value.trim(),
              order,
            );
            onClose();
          }}
        >
          Check out {taken.length}
        </PrimaryButton>
      </Buttons>
    </DialogFrame>
  );
}

interface ChoosingProps {
  readonly lines: readonly CheckOutLine[];
  readonly chosen: ReadonlySet<string>;
  readonly onToggle: (number: string) => void;
}

function Choosing({ lines, chosen, onToggle }: ChoosingProps): React.JSX.Element {
  return (
    <Scroll>
      <Table>
        <thead>
          <tr>
            <th>Take</th>
            <th>Number</th>
            <th>Name</th>
            <th>State</th>
            <th>Held by</th>
            <th>Behind</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.number}>
              <td>
                <Checkbox
                  aria-label={`Take ${line.number}`}
                  isSelected={chosen.has(line.number) && line.refusal === undefined}
                  isDisabled={line.refusal !== undefined}
                  onChange={() => onToggle(line.number)}
                >
                  <Tick aria-hidden />
                </Checkbox>
              </td>
              <td style={{ paddingLeft: 8 + line.level * 14 }}>
                <Mono>{line.number}</Mono>
              </td>
              <td>{line.name}</td>
              <td>
                <StateGlyph state={line.state} /> <Soft>{line.refusal ?? line.state}</Soft>
              </td>
              <td>
                <HolderTag holder={line.heldBy} />
              </td>
              <td>{line.behind > 0 ? <AttentionMark>behind by {line.behind}</AttentionMark> : null}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Scroll>
  );
}

/** Every item of the tree once, at its first place. */
function linesOf({ item, rows }: StructureAnswer, book: StateBook): CheckOutLine[] {
  const lines = new Map<string, CheckOutLine>();
  lines.set(item.number, {
    ...item,
    level: 0,
    heldBy: null,
    behind: 0,
    refusal: refuseChange(book, item.state),
  });
  for (const row of rows) {
    if (row.gap || row.state === null || lines.has(row.number)) continue;
    const refusal = row.heldBy ? `held by ${row.heldBy.name}` : refuseChange(book, row.state);
    lines.set(row.number, { ...row, refusal });
  }
  return [...lines.values()];
}

function lineOf(
  { number, name, state, heldBy, behindLinks, carrier }: ItemView,
  book: StateBook,
): CheckOutLine {
  const refusal = heldBy
    ? `held by ${heldBy.name}`
    : (refuseChange(book, state) ?? (carrier === undefined ? undefined : `lives in the file of ${carrier}`));
  return { number, name, level: 0, state, heldBy, behind: behindLinks.length, refusal };
}

const Scroll = styled.div`
  overflow: auto;
  border: 1px solid ${colour.line};
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  th {
    position: sticky;
    top: 0;
    background: ${colour.surface};
    color: ${colour.inkSoft};
    font-weight: 500;
    font-size: 12px;
    text-align: left;
  }
  th,
  td {
    padding: 4px 8px;
    border-bottom: 1px solid ${colour.line};
    white-space: nowrap;
  }
  td svg {
    vertical-align: middle;
  }
`;
const Tick = styled.i`
  display: block;
  width: 16px;
  height: 16px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 3px;
  background: ${colour.raised};
  [data-selected] > & {
    background: ${colour.petrol};
    box-shadow: inset 0 0 0 3px ${colour.raised};
  }
  [data-disabled] > & {
    opacity: 0.4;
  }
  [data-focus-visible] > & {
    outline: 2px solid ${colour.petrol};
    outline-offset: 1px;
  }
`;
const Buttons = styled.div`
  display: flex;
  gap: 8px;
  align-items: center;
  > span:empty {
    flex: 1;
  }
`;
