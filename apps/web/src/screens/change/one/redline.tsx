/** What an order changes: each item before and after, with what it does to mass and cost. */
import type { RedlineAnswer, RedlineRow } from '@stem-trace/contract';
import { isFlat } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { lazy, Suspense } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { redlineQuery } from '../../../api/changes.js';
import { addressOf } from '../../../api/client.js';
import { compareAddress, laidOverAddress, lookAtBothAddress } from '../../../frame/addresses.js';
import { Button, Hint, Mono, Soft, Trouble } from '../../../ui/controls.js';
import { download } from '../../../ui/download.js';
import { SIGN } from '../../../ui/glyphs.js';
import { KindGlyph } from '../../../ui/kind-glyph.js';
import { sayMass, useShowing } from '../../../ui/showing.js';
import { colour } from '../../../ui/theme.js';
import { useInSight } from '../../../ui/use-in-sight.js';
import type { OverlaidFileProps } from '../../look/flat/overlaid-file.js';

const OverlaidFile = lazy(() => import('../../look/flat/overlaid-file.js'));
const DIGITS = new Intl.NumberFormat('en-GB', { maximumSignificantDigits: 5, signDisplay: 'exceptZero' });

export function Redline({ change }: { readonly change: string }): React.JSX.Element {
  const { data, error } = useQuery(redlineQuery(change));
  if (error) return <Trouble>{error.message}</Trouble>;
  if (!data) return <Hint role="status">Comparing what it makes …</Hint>;
  return (
    <>
      <Sum answer={data} />
      {data.rows.length === 0 ? (
        <Hint>It makes nothing yet, so that nothing differs. Check out for {change} what it affects.</Hint>
      ) : null}
      <Sheets>
        {data.rows.map((row) => (
          <Item key={row.number} row={row} />
        ))}
      </Sheets>
      {data.hidden > 0 ? <Soft>and {data.hidden} more that you may not see</Soft> : null}
    </>
  );
}

function Sum({
  answer: { change, rows, massKg, cost },
}: {
  readonly answer: RedlineAnswer;
}): React.JSX.Element {
  const { mass } = useShowing();
  return (
    <Line>
      <strong>
        {rows.length} {rows.length === 1 ? 'item' : 'items'} before and after
      </strong>
      <Soft>
        {massKg === null ? 'mass not known' : `mass ${massKg > 0 ? '+' : ''}${sayMass(massKg, mass)}`};{' '}
        {cost === null ? 'cost not known' : `cost ${DIGITS.format(cost)}`}
      </Soft>
      {(['pdf', 'xml'] as const).map((format) => (
        <Button
          key={format}
          isDisabled={rows.length === 0}
          onPress={() => download(addressOf('/api/change/redline/file', { change: change.number, format }))}
        >
          <Download size={14} aria-hidden /> {format === 'pdf' ? 'Change notice (PDF)' : 'XML'}
        </Button>
      ))}
    </Line>
  );
}

function Item({ row }: { readonly row: RedlineRow }): React.JSX.Element {
  const { number, name, kind, format, from, to, says, whole, rows } = row;
  const { mass } = useShowing();
  const [before, after] = [`${number}@${from ?? ''}`, `${number}@${to}`];
  return (
    <Sheet aria-label={number}>
      <h2>
        <KindGlyph kind={kind} /> <Mono>{number}</Mono> {name}{' '}
        <Mono>
          {from ?? 'new'} → {to}
        </Mono>
      </h2>
      <p>{says}</p>
      {row.massKg ? (
        <Soft>
          Mass {sayMass(row.massKg.before, mass)} → {sayMass(row.massKg.after, mass)}
        </Soft>
      ) : null}
      {whole.length + rows.length > 0 ? <Differences row={row} /> : null}
      {from === null ? null : (
        <Line>
          <Link to={compareAddress(before, after)}>Compare all levels, row by row</Link>
          {isFlat(format) ? (
            <Link to={laidOverAddress(number, from, to)}>Look at both closely</Link>
          ) : kind === 'part' || kind === 'assembly' ? (
            <Link to={lookAtBothAddress(before, after)}>Both models side by side</Link>
          ) : null}
        </Line>
      )}
      {from !== null && isFlat(format) ? <LaidOver {...{ number, format, from, to }} /> : null}
    </Sheet>
  );
}

/** Both versions of a drawing over each other, made when it is scrolled to. */
function LaidOver(props: OverlaidFileProps): React.JSX.Element {
  const [place, isSeen] = useInSight<HTMLDivElement>();
  return (
    <Over ref={place}>
      {isSeen ? (
        <Suspense fallback={<Soft>Loading the picture …</Soft>}>
          <OverlaidFile {...props} />
        </Suspense>
      ) : null}
    </Over>
  );
}

const BY_MARK = new Map(Object.values(SIGN).map((sign) => [sign.mark, sign]));

function Differences({ row: { whole, rows } }: { readonly row: RedlineRow }): React.JSX.Element {
  return (
    <table>
      <thead>
        <tr>
          <th scope="col">What</th>
          <th scope="col">Before</th>
          <th scope="col">After</th>
          <th scope="col">Difference</th>
        </tr>
      </thead>
      <tbody>
        {whole.map(({ what, before, after }) => (
          <tr key={what}>
            <td>{what}</td>
            <td>
              <del>{before}</del>
            </td>
            <td>
              <ins>{after}</ins>
            </td>
            <td />
          </tr>
        ))}
        {rows.map((row, at) => (
          <tr key={`${row.number} ${at}`}>
            <td>
              <b style={{ color: BY_MARK.get(row.sign)?.ink }}>{row.sign}</b> <Mono>{row.number}</Mono>{' '}
              {row.name}
            </td>
            <td>
              <del>{row.before}</del>
            </td>
            <td>
              <ins>{row.after}</ins>
            </td>
            <td>{row.what}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** As high as most are, so that what stands below moves little when they come. */
const Over = styled.div`
  display: grid;
  gap: 6px;
  min-height: 60px;
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
`;
const Sheets = styled.div`
  display: grid;
  gap: 10px;
`;
const Sheet = styled.section`
  padding: 8px 12px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-left: 4px solid ${colour.changed};
  border-radius: 4px;
  display: grid;
  gap: 4px;
  h2 {
    margin: 0;
    font-size: 14px;
  }
  p {
    margin: 0;
  }
  table {
    border-collapse: collapse;
    width: 100%;
  }
  th,
  td {
    text-align: left;
    padding: 2px 10px 2px 0;
    border-bottom: 1px solid ${colour.line};
    font-weight: 400;
  }
  th {
    color: ${colour.inkSoft};
    font-size: 12px;
  }
  del {
    color: ${colour.copper};
  }
  ins {
    color: ${colour.added};
    text-decoration: none;
  }
`;
