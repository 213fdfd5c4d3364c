import type { IntakeRowView } from '@stem-trace/contract';
import type { RowCorrection } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { send } from '../../api/client.js';
import { itemSchemesQuery } from '../../api/properties.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button, Soft } from '../../ui/controls.js';

export interface BulkCorrectionProps {
  /** Rows that are shown; all of them are corrected. */
  readonly rows: readonly IntakeRowView[];
  readonly onCorrect: (corrections: Readonly<Record<string, RowCorrection>>) => void;
}

/** One correction for all rows that are shown. */
export function BulkCorrection({ rows, onCorrect }: BulkCorrectionProps): React.JSX.Element {
  const [asking, setAsking] = useState<'numbers' | 'replacing'>();
  const schemes = useQuery(itemSchemesQuery).data ?? [];
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
      <Button isDisabled={rows.length === 0} onPress={() => setAsking('replacing')}>
        Replace …
      </Button>
      {schemes.length > 0 ? (
        <Button isDisabled={own.length === 0} onPress={() => setAsking('numbers')}>
          Number …
        </Button>
      ) : null}
      {asking === 'numbers' ? (
        <NumbersDialog rows={own} onCorrect={onCorrect} onClose={() => setAsking(undefined)} />
      ) : null}
      {asking === 'replacing' ? (
        <ReplaceDialog rows={rows} onCorrect={onCorrect} onClose={() => setAsking(undefined)} />
      ) : null}
    </>
  );
}

interface CorrectionDialogProps extends BulkCorrectionProps {
  readonly onClose: () => void;
}

/** Numbers from a scheme, one for each row. */
function NumbersDialog({ rows, onCorrect, onClose }: CorrectionDialogProps): React.JSX.Element {
  const schemes = useQuery(itemSchemesQuery).data ?? [];
  return (
    <AskDialog
      title={`New numbers for ${rows.length} rows`}
      action="Give numbers"
      fields={[
        {
          key: 'scheme',
          label: 'From the scheme; numbers are used up, carried out or not',
          value: schemes[0]?.name ?? '',
          options: schemes.map(({ name, next }) => ({ key: name, text: `${name}, next ${next}` })),
        },
      ]}
      onAnswer={async ({ scheme = '' }) => onCorrect(await numbered(rows, scheme))}
      onClose={onClose}
    />
  );
}

/** A text replaced by another, in all numbers or in all names. */
function ReplaceDialog({ rows, onCorrect, onClose }: CorrectionDialogProps): React.JSX.Element {
  return (
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
      onClose={onClose}
    />
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
