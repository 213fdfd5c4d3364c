import { useQuery } from '@tanstack/react-query';
import { ClipboardList, Replace } from 'lucide-react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { usedBesidesQuery } from '../../api/build.js';
import { buildAddress, traceAddress, useLens } from '../../frame/addresses.js';
import { Mono, Soft } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';

/** Listed before the rest is only counted. */
const MOST = 12;

/** What needs an item without a design file saying so: bills, and what it may be used instead of. */
export function BesidesNote({
  item,
  isWide = false,
}: {
  readonly item: string;
  /** In one line rather than in a column. */
  readonly isWide?: boolean;
}): React.JSX.Element | null {
  const [lens] = useLens();
  const { data } = useQuery(usedBesidesQuery(item, lens));
  if (!data || data.bills.length + data.insteadOf.length + data.hidden === 0) return null;
  const { bills, insteadOf, hidden } = data;
  return (
    <Notes aria-label="Bills and alternates" data-wide={isWide || undefined}>
      {bills.length > 0 || hidden > 0 ? <Soft>in bills</Soft> : null}
      {bills.slice(0, MOST).map(({ number, name, version, amount }) => (
        <Link key={number} to={buildAddress(`${number}@${version}`)} title={`${name}, ${version}`}>
          <ClipboardList size={13} aria-hidden /> <Mono>{number}</Mono>{' '}
          <span>{amount === '' ? 'reference' : `×${amount}`}</span>
        </Link>
      ))}
      {bills.length > MOST ? <Link to="/build">and {bills.length - MOST} more</Link> : null}
      {hidden > 0 ? <Soft>and {hidden} not visible to you</Soft> : null}
      {insteadOf.length > 0 ? <Soft>may be used instead of</Soft> : null}
      {insteadOf.map(({ number, name, onlyIn, approvedBy }) => (
        <Link key={`${number} ${onlyIn}`} to={traceAddress(number, lens)} title={name}>
          <Replace size={13} aria-hidden /> <Mono>{number}</Mono>
          {onlyIn === null ? '' : ` in ${onlyIn}`}
          {approvedBy === null ? ', not approved' : ''}
        </Link>
      ))}
    </Notes>
  );
}

const Notes = styled.nav`
  display: flex;
  flex-direction: column;
  gap: 4px;
  margin-top: 6px;
  padding-top: 8px;
  border-top: 1px solid ${colour.line};
  font-size: 12px;
  a {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0 5px;
    min-height: 24px;
    overflow-wrap: anywhere;
  }
  &[data-wide] {
    flex-direction: row;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 14px;
    margin: 0;
    padding: 0;
    border: none;
  }
`;
