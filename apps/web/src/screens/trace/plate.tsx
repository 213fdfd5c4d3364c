import type { ItemView } from '@stem-trace/contract';
import { FileText } from 'lucide-react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { lookAddress, traceAddress, useLens } from '../../frame/addresses.js';
import { Mono, Soft } from '../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../ui/glyphs.js';
import { colour, font } from '../../ui/theme.js';
import { When } from '../../ui/when.js';
import { BesidesNote } from './besides-note.js';

export interface PlateProps {
  readonly item: ItemView | undefined;
  readonly isCurrent: boolean;
  readonly onPoint: () => void;
}

/** The item in focus, as a tall plate between its columns. */
export function Plate({ item, isCurrent, onPoint }: PlateProps): React.JSX.Element {
  const [lens] = useLens();
  const navigate = useNavigate();
  const shown = item?.versions.find(({ version }) => version === item.shown);
  return (
    <Tall
      data-current={isCurrent || undefined}
      onClick={(event) => {
        // A link in it leads away; pointing at the plate as well would call that back.
        if (!(event.target as Element).closest('a')) onPoint();
      }}
      aria-label="Focus"
    >
      {item ? (
        <>
          <Number>{item.number}</Number>
          <strong>{item.name}</strong>
          <Soft>{item.kind}</Soft>
          <Row>
            <StateGlyph state={shown?.state ?? item.state} /> {shown?.state ?? item.state}
          </Row>
          <label>
            <Soft>Version</Soft>
            <select
              value={item.shown}
              onChange={(event) => void navigate(traceAddress(`${item.number}@${event.target.value}`, lens))}
            >
              {item.versions.map(({ version }) => (
                <option key={version}>{version}</option>
              ))}
            </select>
          </label>
          {shown ? (
            <Soft>
              {shown.author}, <When at={shown.createdAt} />
            </Soft>
          ) : null}
          {shown && shown.behind > 0 ? <AttentionMark>{shown.behind} behind</AttentionMark> : null}
          {item.gaps > 0 ? (
            <AttentionMark>
              {item.gaps} {item.gaps === 1 ? 'gap' : 'gaps'}
            </AttentionMark>
          ) : null}
          {item.carrier ? (
            <Soft>
              lives in the file of <Mono>{item.carrier}</Mono>
            </Soft>
          ) : null}
          {item.beside.length > 0 ? <Beside rows={item.beside} /> : null}
          <BesidesNote item={item.number} />
        </>
      ) : null}
    </Tall>
  );
}

/** Drawings and documents; they are no level of the structure. */
function Beside({ rows }: { readonly rows: ItemView['beside'] }): React.JSX.Element {
  return (
    <Papers aria-label="Drawings and documents">
      {rows.map((row) => (
        <Link key={`${row.number} ${row.relation}`} to={lookAddress(row.number)} title={row.name}>
          <FileText size={13} aria-hidden /> <Mono>{row.number}</Mono>
        </Link>
      ))}
    </Papers>
  );
}

const Papers = styled.nav`
  display: flex;
  flex-direction: column;
  gap: 4px;
  margin-top: 6px;
  padding-top: 8px;
  border-top: 1px solid ${colour.line};
  font-size: 12px;
  overflow-y: auto;
  a {
    overflow-wrap: anywhere;
  }
`;
const Tall = styled.section`
  flex: 0 0 158px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 14px 12px;
  border: 1px solid ${colour.petrol};
  border-radius: 4px;
  background: ${colour.raised};
  border-top-width: 5px;
  overflow-y: auto;
  &[data-current] {
    background: ${colour.petrolSoft};
  }
  > strong {
    overflow-wrap: anywhere;
  }
  > span {
    align-self: flex-start;
  }
  label {
    display: grid;
    gap: 2px;
    font-size: 12px;
  }
  select {
    font: 13px ${font.mono};
    height: 28px;
    border: 1px solid ${colour.lineStrong};
    border-radius: 4px;
    background: ${colour.raised};
    color: ${colour.ink};
  }
`;
const Number = styled.div`
  font-family: ${font.mono};
  font-size: 16px;
  font-weight: 500;
  overflow-wrap: anywhere;
`;
const Row = styled.div`
  display: flex;
  gap: 6px;
  align-items: center;
`;
