/** Who signed the newest revision of an item, as it would be printed: in the signer's own time. */
import type { SignatureRow } from '@stem-trace/contract';
import styled from 'styled-components';
import { Mono, Soft } from '../ui/controls.js';

export function Signatures({ rows }: { readonly rows: readonly SignatureRow[] }): React.JSX.Element | null {
  if (rows.length === 0) return null;
  return (
    <section aria-label="Signatures">
      <h2>Signed</h2>
      <List>
        {rows.map((row) => (
          <li key={`${row.at} ${row.by} ${row.step}`}>
            <Mono>{row.version}</Mono> {row.step} — {row.by} <Soft>{sayTime(row)}</Soft>
          </li>
        ))}
      </List>
    </section>
  );
}

/** `28 Nov 2026, 08:12 (Europe/Oslo)` */
function sayTime({ at, zone }: Pick<SignatureRow, 'at' | 'zone'>): string {
  const said = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    dateStyle: 'medium',
    timeStyle: 'short',
  });
  return `${said.format(new Date(at))} (${zone})`;
}

const List = styled.ul`
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
`;
