import { useQuery, useQueryClient } from '@tanstack/react-query';
import { FileSpreadsheet, SlidersHorizontal, X } from 'lucide-react';
import { useState } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { listQuery } from '../../api/bom.js';
import { send, uploadArchive } from '../../api/client.js';
import { Button, QuietButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { colour } from '../../ui/theme.js';
import { ListDialog } from './list-dialog.js';

const TABLES = ['.csv', '.tsv', '.txt', '.xlsx', '.json', '.xml'] as const;

/** Chooses a file as a side: a list that somebody sent. */
export function ListButton({
  label,
  onChoose,
}: {
  readonly label: string;
  readonly onChoose: (id: string) => void;
}): React.JSX.Element {
  const queries = useQueryClient();
  const [mapped, map] = useState('');
  const [trouble, setTrouble] = useState('');
  const bring = async (file: File): Promise<void> => {
    try {
      setTrouble('');
      const list = await uploadArchive('/api/lists', { name: file.name }, file);
      queries.setQueryData(listQuery(list.id).queryKey, list);
      onChoose(list.id);
      // What is a BOM by itself needs no columns.
      if (list.preview.length > 0) map(list.id);
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      <FileTrigger
        acceptedFileTypes={[...TABLES]}
        onSelect={(files) => {
          const [file] = files ?? [];
          if (file) void bring(file);
        }}
      >
        <Button aria-label={`${label}: a file`}>
          <FileSpreadsheet size={15} aria-hidden />
        </Button>
      </FileTrigger>
      {mapped === '' ? null : <ListDialog id={mapped} onClose={() => map('')} />}
      {trouble === '' ? null : (
        <DialogFrame title="Not compared" widthPx={420} onClose={() => setTrouble('')}>
          <Trouble>{trouble}</Trouble>
        </DialogFrame>
      )}
    </>
  );
}

/** Takes a document of the store, such as a supplier's offer that was brought in, for a list. */
export function DocumentButton({
  item,
  onChoose,
}: {
  /** `NUMBER` or `NUMBER@B/3` */
  readonly item: string;
  readonly onChoose: (id: string) => void;
}): React.JSX.Element {
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState('');
  const take = async (): Promise<void> => {
    try {
      setTrouble('');
      const list = await send('POST', '/api/lists/of', { item });
      queries.setQueryData(listQuery(list.id).queryKey, list);
      onChoose(list.id);
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      <Button onPress={() => void take()}>
        <FileSpreadsheet size={15} aria-hidden /> Compare its rows
      </Button>
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
    </>
  );
}

/** Whether a file can be a list. */
export function isTable(fileName: string): boolean {
  return TABLES.some((ending) => fileName.toLowerCase().endsWith(ending));
}

/** A file that is a side, with what it was taken to mean. */
export function ListChosen({
  id,
  onLeave,
}: {
  readonly id: string;
  readonly onLeave: () => void;
}): React.JSX.Element {
  const list = useQuery(listQuery(id));
  const [isMapping, map] = useState(false);
  return (
    <Chosen>
      <FileSpreadsheet size={14} aria-hidden />
      <span title={list.data?.name}>{list.data?.name ?? '…'}</span>
      <Soft>{list.data ? `${list.data.rows.toLocaleString('en-GB')} rows` : ''}</Soft>
      {list.data && list.data.preview.length > 0 ? (
        <QuietButton aria-label="Column mapping" onPress={() => map(true)}>
          <SlidersHorizontal size={14} />
        </QuietButton>
      ) : null}
      <QuietButton aria-label="An item instead" onPress={onLeave}>
        <X size={14} />
      </QuietButton>
      {isMapping ? <ListDialog id={id} onClose={() => map(false)} /> : null}
    </Chosen>
  );
}

const Chosen = styled.div`
  display: flex;
  align-items: center;
  gap: 6px;
  height: 30px;
  padding: 0 4px 0 8px;
  max-width: 300px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 4px;
  background: ${colour.raised};
  > span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
