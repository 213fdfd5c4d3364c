/** What is looked at, on paper. */
import type { ItemView } from '@stem-trace/contract';
import { useState } from 'react';
import { addressOf } from '../../../api/client.js';
import { Pick, Soft, Trouble } from '../../../ui/controls.js';
import { download } from '../../../ui/download.js';

/** Scales that drawings are made to (ISO 5455, table 1), as far as they are usual for prints. */
const SCALES = ['1:1', '1:2', '1:5', '1:10', '2:1'];

export interface PrintPickProps {
  readonly item: ItemView;
  readonly sheet: string;
  readonly hasMarks: boolean;
}

export function PrintPick({ item, sheet, hasMarks }: PrintPickProps): React.JSX.Element {
  const [says, say] = useState('');
  const [trouble, setTrouble] = useState('');
  const isDrawing = item.format === 'dxf';
  const print = async (what: string): Promise<void> => {
    setTrouble('');
    say('Printing …');
    const [, paper, real] = /^(\d+):(\d+)/.exec(what) ?? [];
    const response = await fetch(
      addressOf('/api/print', {
        item: `${item.number}@${item.shown}`,
        sheet: isDrawing ? sheet : '',
        scale: paper && real ? Number(paper) / Number(real) : undefined,
        marks: what === 'marks',
      }),
    );
    say('');
    if (response.ok) download(await response.blob(), `${item.number} ${item.shown.replace('/', '-')}.pdf`);
    else setTrouble(((await response.json()) as { readonly detail: string }).detail);
  };
  return (
    <>
      <Pick
        label="Print as PDF"
        options={[
          { key: '', text: 'choose …' },
          ...(hasMarks ? [{ key: 'marks', text: 'with mark-up and its list' }] : []),
          ...(isDrawing
            ? SCALES.map((scale) => ({ key: scale, text: `to scale ${scale}` }))
            : [{ key: 'plain', text: 'as it is' }]),
        ]}
        value=""
        onChange={(what) => (what === '' ? undefined : void print(what))}
      />
      {says === '' ? null : <Soft role="status">{says}</Soft>}
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
    </>
  );
}
