import type { IntakeRowView } from '@stem-trace/contract';
import type { RowCorrection } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { send } from '../../api/client.js';
import { schemesQuery } from '../../api/properties.js';
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
  const [isNumbering, setNumbering] = useState(false);
  const schemes = useQuery(schemesQuery).data ?? [];
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
      {schemes.length > 0 ? (
        <Button isDisabled={own.length === 0} onPress={() => setNumbering(true)}>
          Number …
        </Button>
      ) : null}
      {isNumbering ? (
        <AskDialog
          title={`New numbers for ${own.length} rows`}
          action="Give numbers"
          fields={[
            {
              key: 'scheme',
              label: 'From the scheme; numbers are used up, carried out or not',
              value: schemes[0]?.name ?? '',
              options: schemes.map(({ name, next }) => ({ key: name, text: `${name}, next ${next}` })),
            },
          ]}
          onAnswer={async ({ scheme = '' }) => onCorrect(await numbered(own, scheme))}
          onClose={() => setNumbering(false)}
        />
      ) : null}
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

async function numbered(
  rows: readonly IntakeRowView[],
  scheme: string,
): Promise<Record<string, RowCorrection>> {
  const { numbers } = await send('POST', '/api/numbers/reserve', {
    scheme,
    count: rows.length,
  });
  return Object.fromEntries(rows.map(({ key }, index) => [key, { number: numbers[index] ?? '' }]));
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
