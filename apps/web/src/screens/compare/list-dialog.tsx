import type { ListView } from '@stem-trace/contract';
import { LIST_FIELDS, type LevelKind, type ListField, type TableMapping } from '@stem-trace/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { listQuery } from '../../api/bom.js';
import { send } from '../../api/client.js';
import { Button, Field, Pick, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogFrame } from '../../ui/dialog-frame.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { colour } from '../../ui/theme.js';

const SAYS: Readonly<Record<ListField, string>> = {
  number: 'number',
  name: 'name',
  version: 'version',
  quantity: 'quantity',
  unit: 'unit',
  counted: 'what the quantity counts by',
  find: 'find number',
  designators: 'designators',
  level: 'level',
};
const LEVELS: readonly { readonly key: LevelKind; readonly text: string }[] = [
  { key: 'none', text: 'one level' },
  { key: 'number', text: '1, 2, 3 in the level column' },
  { key: 'dotted', text: '1, 1.1, 1.1.1' },
  { key: 'indent', text: 'indented numbers' },
];
const SHOWN_ROWS = 12;

/** What the columns of a list mean: proposed, looked at, changed, and kept under a name. */
export function ListDialog({
  id,
  onClose,
}: {
  readonly id: string;
  readonly onClose: () => void;
}): React.JSX.Element {
  const list = useQuery(listQuery(id));
  return (
    <DialogFrame title={`Columns of ${list.data?.name ?? 'the list'}`} widthPx={900} onClose={onClose}>
      {list.error ? <Trouble>{list.error.message}</Trouble> : null}
      {list.data ? <Mapping list={list.data} onClose={onClose} /> : null}
    </DialogFrame>
  );
}

function Mapping({
  list,
  onClose,
}: {
  readonly list: ListView;
  readonly onClose: () => void;
}): React.JSX.Element {
  const queries = useQueryClient();
  const [keepAs, setKeepAs] = useState('');
  const [trouble, setTrouble] = useState('');
  const { mapping } = list;
  const map = async (next: TableMapping, name = ''): Promise<void> => {
    try {
      setTrouble('');
      const mapped = await send('PUT', `/api/lists/${list.id}`, { mapping: next, keepAs: name });
      queries.setQueryData(listQuery(list.id).queryKey, mapped);
      await queries.invalidateQueries({ queryKey: ['compare'] });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      <Choices list={list} onChange={(changes) => void map({ ...mapping, ...changes })} />
      <Preview list={list} onChange={(next) => void map(next)} />
      <Read list={list} />
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <Line>
        <Field label="Save this mapping as" value={keepAs} onChange={setKeepAs} width="200px" />
        <Button isDisabled={keepAs.trim() === ''} onPress={() => void map(mapping, keepAs.trim())}>
          Keep
        </Button>
        <Gap />
        <PrimaryButton onPress={onClose}>Compare</PrimaryButton>
      </Line>
    </>
  );
}

function Choices({
  list: { mapping, sheets, kept, preview },
  onChange,
}: {
  readonly list: ListView;
  readonly onChange: (changes: Partial<TableMapping>) => void;
}): React.JSX.Element {
  const none = { key: '', text: 'as proposed' };
  return (
    <Line>
      {sheets.length > 1 ? (
        <Pick
          label="Sheet"
          options={sheets.map((name) => ({ key: name, text: name }))}
          value={mapping.sheet}
          onChange={(sheet) => onChange({ sheet })}
        />
      ) : null}
      <Pick
        label="Headings in row"
        options={[
          { key: '-1', text: 'none' },
          ...preview.map((_, at) => ({ key: String(at), text: String(at + 1) })),
        ]}
        value={String(mapping.header)}
        onChange={(at) => onChange({ header: Number(at) })}
      />
      <Pick
        label="Decimal sign"
        options={[
          { key: '.', text: 'point' },
          { key: ',', text: 'comma' },
        ]}
        value={mapping.decimal}
        onChange={(decimal) => onChange({ decimal: decimal === ',' ? ',' : '.' })}
      />
      <Pick
        label="Levels"
        options={LEVELS}
        value={mapping.levels}
        onChange={(key) => onChange({ levels: LEVELS.find((each) => each.key === key)?.key ?? 'none' })}
      />
      {kept.length > 0 ? (
        <Pick
          label="As kept"
          options={[none, ...kept.map(({ name }) => ({ key: name, text: name }))]}
          value=""
          onChange={(name) => {
            const found = kept.find((each) => each.name === name);
            if (found) onChange({ ...found.mapping, sheet: mapping.sheet });
          }}
        />
      ) : null}
    </Line>
  );
}

/** The first rows, each column under what it means. */
function Preview({
  list: { preview, mapping },
  onChange,
}: {
  readonly list: ListView;
  readonly onChange: (mapping: TableMapping) => void;
}): React.JSX.Element {
  const columns = Math.max(0, ...preview.map((row) => row.length));
  return (
    <Scroll tabIndex={0} role="region" aria-label="First rows">
      <table>
        <thead>
          <tr>
            {Array.from({ length: columns }, (_, at) => (
              <th key={at} scope="col">
                <select
                  aria-label={`Column ${at + 1} is`}
                  value={meaningOf(mapping, at)}
                  onChange={(event) => onChange(withMeaning(mapping, at, event.target.value, preview))}
                >
                  <option value="">left out</option>
                  {LIST_FIELDS.map((field) => (
                    <option key={field} value={field}>
                      {SAYS[field]}
                    </option>
                  ))}
                  <option value="further">a further column</option>
                </select>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {preview.slice(0, SHOWN_ROWS).map((row, at) => (
            <tr
              key={at}
              data-header={at === mapping.header || undefined}
              data-before={at < mapping.header || undefined}
            >
              {Array.from({ length: columns }, (_, column) => (
                <td key={column} title={row[column]}>
                  {row[column]}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Scroll>
  );
}

function meaningOf({ columns, further }: TableMapping, at: number): string {
  const field = LIST_FIELDS.find((each) => columns[each] === at);
  return field ?? (further.some((each) => each.at === at) ? 'further' : '');
}

/** A field is one column's alone; a further column goes by its heading. */
function withMeaning(
  mapping: TableMapping,
  at: number,
  meaning: string,
  preview: ListView['preview'],
): TableMapping {
  const columns = Object.fromEntries(
    Object.entries(mapping.columns).filter(([field, column]) => column !== at && field !== meaning),
  );
  const further = mapping.further.filter((each) => each.at !== at);
  const field = LIST_FIELDS.find((each) => each === meaning);
  const heading = (preview[mapping.header]?.[at] ?? '').trim().slice(0, 80);
  return {
    ...mapping,
    columns: field ? { ...columns, [field]: at } : columns,
    further: meaning === 'further' ? [...further, { at, name: heading || `column ${at + 1}` }] : further,
  };
}

/** What came of it. */
function Read({ list: { rows, problems, unknown, alike } }: { readonly list: ListView }): React.JSX.Element {
  return (
    <Told aria-live="polite">
      <b>{rows.toLocaleString('en-GB')}</b> {rows === 1 ? 'row' : 'rows'}
      {unknown > 0
        ? `, ${unknown.toLocaleString('en-GB')} ${unknown === 1 ? 'number' : 'numbers'} that the store does not know`
        : ''}
      {alike.length > 0 ? (
        <Soft>
          {' '}
          · written alike:{' '}
          {alike
            .slice(0, 5)
            .map(({ number, like, name }) => `${number} and ${like} ${name}`)
            .join(', ')}
        </Soft>
      ) : null}
      {problems.length > 0 ? (
        <ul>
          {problems.slice(0, 6).map(({ row, says }) => (
            <li key={`${row} ${says}`}>
              <AttentionMark>row {row}</AttentionMark> {says}
            </li>
          ))}
          {problems.length > 6 ? <li>and {problems.length - 6} more</li> : null}
        </ul>
      ) : null}
    </Told>
  );
}

const Line = styled.div`
  display: flex;
  align-items: end;
  flex-wrap: wrap;
  gap: 8px 12px;
`;
const Gap = styled.span`
  flex: 1;
`;
const Told = styled.div`
  ul {
    margin: 6px 0 0;
    padding: 0;
    list-style: none;
    display: grid;
    gap: 3px;
  }
`;
const Scroll = styled.div`
  overflow: auto;
  max-height: 330px;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  table {
    border-collapse: collapse;
    font-size: 12.5px;
  }
  th {
    position: sticky;
    top: 0;
    padding: 4px;
    background: ${colour.surface};
    text-align: left;
  }
  select {
    font: inherit;
    height: 26px;
    border: 1px solid ${colour.lineStrong};
    border-radius: 3px;
    background: ${colour.raised};
    color: ${colour.ink};
  }
  td {
    padding: 3px 8px;
    border-top: 1px solid ${colour.line};
    max-width: 200px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  tr[data-header] td {
    font-weight: 600;
    background: ${colour.petrolSoft};
  }
  tr[data-before] td {
    color: ${colour.inkSoft};
  }
`;
