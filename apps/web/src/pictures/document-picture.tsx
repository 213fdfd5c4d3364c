/** An office document as large as there is room: a workbook sheet by sheet, a document as flowing text with its pictures. */
import type { DocumentAnswer, DocumentTable } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { get } from '../api/client.js';
import { Button, Choice, Soft } from '../ui/controls.js';
import { colour } from '../ui/theme.js';
import { Figure, PictureFrame } from './picture-frame.js';
import type { FilePictureProps } from './picture.js';
import TextPicture from './text-picture.js';

export default function DocumentPicture(props: FilePictureProps): React.JSX.Element {
  const { item } = props;
  const answer = useQuery({
    queryKey: ['document', item],
    queryFn: ({ signal }) => get('/api/document', { item }, signal),
    staleTime: Infinity,
    retry: false,
  });
  if (answer.error)
    return (
      <Figure>
        <Soft>{answer.error.message} This is the text in it:</Soft>
        <TextPicture {...props} />
      </Figure>
    );
  if (!answer.data) return <Soft role="status">Reading the document …</Soft>;
  return answer.data.kind === 'tables' ? (
    <Tables item={item} tables={answer.data.tables} />
  ) : (
    <Flowing item={item} {...answer.data} />
  );
}

function Tables({
  item,
  tables,
}: {
  readonly item: string;
  readonly tables: readonly DocumentTable[];
}): React.JSX.Element {
  const [at, choose] = useState(0);
  const table = tables[at];
  if (!table) return <Soft>There is no sheet in it that is shown.</Soft>;
  return (
    <Figure>
      {tables.length > 1 ? (
        <Choice
          label="Sheet"
          options={tables.map(({ name }, place) => ({ key: String(place), text: name }))}
          value={String(at)}
          onChange={(key) => choose(Number(key))}
        />
      ) : null}
      <PictureFrame data-large>
        {/* The next sheet begins at its first rows again. */}
        <Sheet key={at} item={item} table={table} />
      </PictureFrame>
      {table.count > table.rows.length ? (
        <figcaption>
          <Soft>
            The first {table.rows.length} of {table.count} rows; fetch the file for the rest.
          </Soft>
        </figcaption>
      ) : null}
    </Figure>
  );
}

const AT_ONCE = 200;

function Sheet({ item, table }: { readonly item: string; readonly table: DocumentTable }): React.JSX.Element {
  const [most, show] = useState(AT_ONCE);
  const { name, rows, widths } = table;
  return (
    <Scroll tabIndex={0} role="region" aria-label={`${name} of ${item}`}>
      <table>
        <colgroup>
          <col />
          {widths.map((width, column) => (
            <col key={column} style={width > 0 ? { minWidth: `${Math.min(width, 60)}ch` } : undefined} />
          ))}
        </colgroup>
        <thead>
          <tr>
            <td />
            {widths.map((_, column) => (
              <th key={column} scope="col">
                {columnName(column)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, most).map((cells, row) => (
            <tr key={row}>
              <th scope="row">{row + 1}</th>
              {widths.map((_, column) => (
                <td key={column}>{cells[column] ?? ''}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > most ? (
        <Button onPress={() => show(most + AT_ONCE)}>Show more of {rows.length} rows</Button>
      ) : null}
    </Scroll>
  );
}

/** `A` to `Z`, then `AA` and so on, as sheets name their columns. */
function columnName(column: number): string {
  const letter = String.fromCharCode(65 + (column % 26));
  return column < 26 ? letter : columnName(Math.floor(column / 26) - 1) + letter;
}

function Flowing({
  item,
  html,
  left,
}: { readonly item: string } & Omit<Extract<DocumentAnswer, { kind: 'text' }>, 'kind'>): React.JSX.Element {
  return (
    <Figure>
      <PictureFrame data-large>
        <Scroll tabIndex={0} role="region" aria-label={`Text of ${item}`}>
          {/* The server leaves only a few elements that nothing can be done with. */}
          <Page dangerouslySetInnerHTML={{ __html: html }} />
        </Scroll>
      </PictureFrame>
      {left.length > 0 ? (
        <figcaption>
          <Soft>Not shown: {left.join('; ')}</Soft>
        </figcaption>
      ) : null}
    </Figure>
  );
}

const Scroll = styled.div`
  height: 100%;
  overflow: auto;
  padding: 10px 12px;
  table {
    border-collapse: collapse;
    font-size: 12px;
  }
  td,
  th {
    border: 1px solid ${colour.line};
    padding: 3px 8px;
    text-align: left;
    vertical-align: top;
  }
  th {
    color: ${colour.inkSoft};
    font-weight: 500;
    background: ${colour.surface};
  }
`;
const Page = styled.article`
  max-width: 76ch;
  margin: 0 auto;
  line-height: 1.5;
  img {
    max-width: 100%;
  }
`;
