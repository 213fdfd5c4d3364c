import type { IntakeReference, IntakeRowView } from '@stem-trace/contract';
import styled from 'styled-components';
import { Button, Mono, Soft } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { EditCell } from '../../ui/edit-cell.js';
import { AttentionMark } from '../../ui/glyphs.js';

export interface ReferencesDialogProps {
  readonly row: IntakeRowView;
  /** Number of the item that each locator means, for all that were said by hand. */
  readonly onCorrect: (references: Readonly<Record<string, string>>) => void;
  readonly onClose: () => void;
}

/** What a file's references were taken to mean, where that was guessed or nothing was found; each can be said better. */
export function ReferencesDialog({ row, onCorrect, onClose }: ReferencesDialogProps): React.JSX.Element {
  const correct = (locator: string, number: string): void =>
    onCorrect({ ...saidByHand(row.doubtful), [locator]: number });
  return (
    <DialogFrame title={`References of ${row.number} to look at`} widthPx={760} onClose={onClose}>
      <Soft>Type the number of another item where the one proposed is wrong; leave it empty for a gap.</Soft>
      <Table>
        <thead>
          <tr>
            <th scope="col">The file says</th>
            <th scope="col">Found by</th>
            <th scope="col">Item</th>
          </tr>
        </thead>
        <tbody>
          {row.doubtful.map((reference) => (
            <tr key={reference.locator}>
              <td>
                <Mono>{reference.locator}</Mono>
              </td>
              <td>{reference.number === null ? <AttentionMark>gap</AttentionMark> : sayHow(reference.by)}</td>
              <td>
                <EditCell
                  mono
                  label={`Item that ${reference.locator} means`}
                  value={reference.number ?? ''}
                  onCommit={(number) => correct(reference.locator, number)}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <div>
        <Button onPress={onClose}>Close</Button>
      </div>
    </DialogFrame>
  );
}

/** What was said before, so that a further correction keeps it. */
function saidByHand(references: readonly IntakeReference[]): Record<string, string> {
  return Object.fromEntries(
    references.flatMap(({ locator, number, by }) => (by === 'hand' ? [[locator, number ?? '']] : [])),
  );
}

function sayHow(by: IntakeReference['by']): string {
  return by === 'hand' ? 'your correction' : `guess: ${by ?? ''}`;
}

const Table = styled.table`
  width: 100%;
  border-spacing: 0 6px;
  th {
    text-align: left;
    font-weight: 500;
  }
  td,
  th {
    padding-right: 12px;
    overflow-wrap: anywhere;
  }
  td:last-child {
    width: 200px;
  }
`;
