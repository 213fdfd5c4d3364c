/** The text in a document, as it is found by; sheets and tables as tables. */
import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { get } from '../api/client.js';
import { Soft } from '../ui/controls.js';
import { colour, font } from '../ui/theme.js';
import { Figure, PictureFrame } from './picture-frame.js';
import type { FilePictureProps } from './picture.js';

/** More than anybody reads here; the file itself can be fetched. */
const MAX_LINES = 2000;
const IN_MARGIN = 20;

export default function TextPicture({ item, isLarge }: FilePictureProps): React.JSX.Element | null {
  const text = useQuery({
    queryKey: ['text', item],
    queryFn: ({ signal }) => get('/api/text', { item }, signal),
    staleTime: Infinity,
  });
  if (text.error) return <Soft>{text.error.message}</Soft>;
  const all = text.data?.text.split('\n') ?? [];
  const lines = all.slice(0, isLarge ? MAX_LINES : IN_MARGIN);
  return (
    <Figure>
      <PictureFrame data-large={isLarge || undefined}>
        {}
        <Scroll tabIndex={0} role="region" aria-label={`Text of ${item}`}>
          {text.data?.format === 'workbook' ? (
            <Cells lines={lines.map((line) => line.split('\t'))} />
          ) : (
            <pre>{lines.join('\n')}</pre>
          )}
        </Scroll>
      </PictureFrame>
      {isLarge && all.length > MAX_LINES ? (
        <figcaption>
          <Soft>
            The first {MAX_LINES} of {all.length} lines.
          </Soft>
        </figcaption>
      ) : null}
    </Figure>
  );
}

function Cells({ lines }: { readonly lines: readonly (readonly string[])[] }): React.JSX.Element {
  return (
    <table>
      <tbody>
        {lines.map((cells, row) => (
          <tr key={row} data-title={cells.length === 1 || undefined}>
            {cells.map((cell, column) => (
              <td key={column}>{cell}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const Scroll = styled.div`
  height: 100%;
  overflow: auto;
  padding: 10px 12px;
  pre {
    margin: 0;
    font: 12px/1.5 ${font.mono};
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  table {
    border-collapse: collapse;
    font-size: 12px;
  }
  td {
    border: 1px solid ${colour.line};
    padding: 3px 8px;
  }
  tr[data-title] td {
    border: none;
    font-weight: 600;
    padding-top: 10px;
  }
`;
