import { isWrong, type ProofRow } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { useDeferredValue, useMemo, useState } from 'react';
import styled from 'styled-components';
import { addressOf, get } from '../../api/client.js';
import { Box, Mono, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Grid, useGridCursor, type GridColumn } from '../../ui/grid.js';
import { MiddleCut } from '../../ui/middle-cut.js';
import { Tick } from '../../ui/tick.js';
import { useTable } from '../../ui/use-table.js';

const WORDS = { right: 'right', wrong: 'wrong', none: '–' } as const;

const COLUMNS: readonly GridColumn<ProofRow>[] = [
  {
    key: 'path',
    title: 'File',
    width: 'minmax(150px, 1.2fr)',
    sortBy: ({ path }) => path,
    cell: ({ path }) => <MiddleCut text={path} />,
  },
  {
    key: 'line',
    title: 'Line',
    width: '58px',
    align: 'right',
    sortBy: ({ line }) => line,
    cell: ({ line }) => <Mono>{line === 0 ? '' : line}</Mono>,
  },
  {
    key: 'child',
    title: 'Uses or field',
    width: 'minmax(110px, 0.9fr)',
    sortBy: ({ child }) => child,
    cell: ({ child, quantity }) =>
      // A field of a title block has no quantity.
      quantity === 0 ? (
        <MiddleCut text={child} />
      ) : (
        <Mono>
          <MiddleCut text={`${child} ×${quantity}`} />
        </Mono>
      ),
  },
  {
    key: 'said',
    title: 'Said',
    width: 'minmax(100px, 0.9fr)',
    isMinor: true,
    cell: ({ said }) => <MiddleCut text={said} />,
  },
  {
    key: 'says',
    title: 'Says',
    width: 'minmax(100px, 0.9fr)',
    cell: ({ says }) => <MiddleCut text={says} />,
  },
  {
    key: 'to',
    title: 'Leads to',
    width: 'minmax(110px, 1fr)',
    sortBy: ({ leadsTo }) => leadsTo,
    cell: ({ leadsTo, note, ...row }) =>
      isWrong({ ...row, leadsTo, note }) ? (
        <AttentionMark title={note}>{note}</AttentionMark>
      ) : (
        <MiddleCut text={leadsTo || note} />
      ),
  },
  {
    key: 'reader',
    title: 'Reader',
    width: '70px',
    sortBy: ({ reader }) => reader,
    cell: ({ reader }) => <Soft>{WORDS[reader]}</Soft>,
  },
  {
    key: 'census',
    title: 'Texts',
    width: '64px',
    sortBy: ({ census }) => census,
    cell: ({ census }) => <Soft>{WORDS[census]}</Soft>,
  },
];

/** The proof reference by reference: what each file said and says, where that leads, and what both witnesses found. */
export function ProofRows({
  variant,
  about,
}: {
  readonly variant: string;
  readonly about: string;
}): React.JSX.Element {
  const document = useQuery({
    queryKey: ['proof', 'rows', variant, about],
    queryFn: ({ signal }) => get('/api/derive/proof/rows', { item: variant }, signal),
  });
  const [words, type] = useState('');
  const [onlyWrong, setOnlyWrong] = useState(false);
  const wanted = useDeferredValue(words.trim().toLowerCase());
  const rows = useMemo(
    () =>
      (document.data?.rows ?? []).filter(
        (row) =>
          (!onlyWrong || isWrong(row) || row.kind === 'not rewritten') &&
          (wanted === '' ||
            `${row.path} ${row.child} ${row.said} ${row.says} ${row.leadsTo}`.toLowerCase().includes(wanted)),
      ),
    [document.data, onlyWrong, wanted],
  );
  const table = useTable('proof', rows, COLUMNS);
  const cursor = useGridCursor(
    table.rows,
    ({ path, child, says, line }) => `${path} ${line} ${child} ${says}`,
  );
  if (document.error) return <Trouble>{document.error.message}</Trouble>;
  const file = (format: 'json' | 'pdf'): string =>
    addressOf('/api/derive/proof/file', { item: variant, format });
  return (
    <>
      <Line>
        <Box
          aria-label="References that hold these words"
          placeholder="File or number"
          value={words}
          onChange={({ target }) => type(target.value)}
        />
        <Tick isSelected={onlyWrong} onChange={setOnlyWrong}>
          Only what is wrong or left to do
        </Tick>
        <Soft>{rows.length.toLocaleString('en-GB')} rows</Soft>
        <a href={file('pdf')} download>
          <Download size={14} aria-hidden /> as PDF
        </a>
        <a href={file('json')} download>
          <Download size={14} aria-hidden /> as JSON
        </a>
      </Line>
      <Sized>
        <Grid label="References of the variant" {...table.grid} cursor={cursor} reuses />
      </Sized>
    </>
  );
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: center;
  a {
    display: inline-flex;
    gap: 4px;
    align-items: center;
  }
`;
const Sized = styled.div`
  height: 340px;
  display: flex;
  flex-direction: column;
`;
