import type { IntakeRowView } from '@stem-trace/contract';
import type { RowCorrection } from '@stem-trace/core';
import { useState } from 'react';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Soft } from '../../ui/controls.js';

export interface BulkCorrectionProps {
  /** Rows that are shown; all of them are corrected. */
  readonly rows: readonly IntakeRowView[];
  readonly onCorrect: (corrections: Readonly<Record<string, RowCorrection>>) => void;
}

/** One correction for all rows that are shown. */
export function BulkCorrection({ rows, onCorrect }: BulkCorrectionProps): React.JSX.Element {
  const [isAsking, setAsking] = useState(false);
  const own = rows.filter(({ carrier }) => carrier === null);
  const forAll = (correction: RowCorrection): void =>
    onCorrect(Object.fromEntries(own.map(({ key }) => [key, correction])));
  return (
    <>
      <Soft>These {rows.length}:</Soft>
      <Button isDisabled={own.length === 0} onPress={() => forAll({ leaveOut: true })}>
        Leave out
      </Button>
      <Button isDisabled={own.length === 0} onPress={() => forAll({ leaveOut: false })}>
        Take in
      </Button>
      <Button isDisabled={rows.length === 0} onPress={() => setAsking(true)}>
        Replace …
      </Button>
      {isAsking ? (
        <AskDialog
          title={`Replace in ${rows.length} rows`}
          action="Replace"
          fields={[
            {
              key: 'where',
              label: 'In',
              value: 'number',
              options: [
                { key: 'number', text: 'numbers' },
                { key: 'name', text: 'names' },
              ],
            },
            { key: 'from', label: 'Find', value: '' },
            { key: 'to', label: 'Replace by', value: '' },
          ]}
          onAnswer={({ where = 'number', from = '', to = '' }) => {
            onCorrect(replaced(rows, where === 'name' ? 'name' : 'number', { from, to }));
            return Promise.resolve();
          }}
          onClose={() => setAsking(false)}
        />
      ) : null}
    </>
  );
}

function replaced(
  rows: readonly IntakeRowView[],
  member: 'number' | 'name',
  { from, to }: { from: string; to: string },
): Record<string, RowCorrection> {
  if (from === '') return {};
  return Object.fromEntries(
    rows.flatMap((row) => {
      const text = row[member].replaceAll(from, () => to);
      return text === row[member] ? [] : [[row.key, { [member]: text }]];
    }),
  );
}
