import { useQuery } from '@tanstack/react-query';
import type { StructureAnswer, StructureRow } from '@stem-trace/contract';
import { refuseHold } from '@stem-trace/core';
import { useMemo, useState } from 'react';
import { Checkbox } from 'react-aria-components';
import styled from 'styled-components';
import { get } from '../api/client.js';
import { Button, Field, Mono, PrimaryButton, Soft } from '../ui/controls.js';
import { DialogFrame } from '../ui/dialog-frame.js';
import { AttentionMark, StateGlyph } from '../ui/glyphs.js';
import { HolderTag } from '../ui/holder-tag.js';
import { colour } from '../ui/theme.js';

interface Line {
  readonly number: string;
  readonly name: string;
  readonly level: number;
  readonly state: StructureRow['state'];
  readonly heldBy: StructureRow['heldBy'];
  readonly behind: number;
  /** Why it cannot be had; undefined where it can. */
  readonly refusal: string | undefined;
}

export interface CheckOutDialogProps {
  readonly item: string;
  readonly onClose: () => void;
  readonly onChosen: (items: readonly string[], reason: string) => void;
}

/** An assembly with what is below it: what, state, held by whom, behind; each can be chosen. */
export function CheckOutDialog({ item, onClose, onChosen }: CheckOutDialogProps): React.JSX.Element {
  const tree = useQuery({
    queryKey: ['structure', 'check out', item],
    queryFn: ({ signal }) => get('/api/made', { item, all: true }, signal),
  });
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set([item]));
  const [reason, setReason] = useState('');
  const lines = useMemo(() => (tree.data ? linesOf(tree.data) : []), [tree.data]);
  const toggle = (number: string): void => {
    const next = new Set(chosen);
    if (!next.delete(number)) next.add(number);
    setChosen(next);
  };
  const free = lines.filter((line) => line.refusal === undefined);
  return (
    <DialogFrame title={`Check out ${item}`} widthPx={860} onClose={onClose}>
      <Choosing lines={lines} chosen={chosen} onToggle={toggle} />
      <Field
        label="Why (everybody sees it)"
        value={reason}
        onChange={setReason}
        placeholder="e.g. longer arm for the tide station"
      />
      <Buttons>
        <Button onPress={() => setChosen(new Set(free.map(({ number }) => number)))}>
          Choose all that can be had
        </Button>
        <span />
        <Button onPress={onClose}>Cancel</Button>
        <PrimaryButton
          isDisabled={chosen.size === 0}
          onPress={() => {
            onChosen(
              free.flatMap(({ number }) => (chosen.has(number) ? [number] : [])),
              reason,
            );
            onClose();
          }}
        >
          Check out {free.filter(({ number }) => chosen.has(number)).length}
        </PrimaryButton>
      </Buttons>
    </DialogFrame>
  );
}

interface ChoosingProps {
  readonly lines: readonly Line[];
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
function linesOf({ item, rows }: StructureAnswer): Line[] {
  const lines = new Map<string, Line>();
  lines.set(item.number, { ...item, level: 0, heldBy: null, behind: 0, refusal: refuseHold(item.state) });
  for (const row of rows) {
    if (row.gap || row.state === null || lines.has(row.number)) continue;
    const refusal = row.heldBy ? `held by ${row.heldBy.name}` : refuseHold(row.state);
    lines.set(row.number, { ...row, refusal });
  }
  return [...lines.values()];
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
  span {
    flex: 1;
  }
`;
