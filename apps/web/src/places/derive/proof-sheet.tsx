import type { DeriveResult } from '@stem-trace/contract';
import { Download, Route, ShieldCheck, TriangleAlert } from 'lucide-react';
import { useEffect } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { compareAddress, fetchAddress, traceAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Mono, Soft } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';

/** The variant, and the proof that its files say what was planned. */
export function ProofSheet({ result }: { readonly result: DeriveResult }): React.JSX.Element {
  const { pointAt } = useDesk();
  useEffect(() => pointAt(result.variant), [pointAt, result.variant]);
  const { proof, made, shared, notes, variant } = result;
  const sound = proof.dangling === 0 && proof.leaking === 0;
  const origin = made[0]?.from ?? '';
  return (
    <Sheet aria-live="polite">
      <h1>
        {sound ? (
          <ShieldCheck size={20} color={colour.petrol} aria-hidden />
        ) : (
          <TriangleAlert size={20} color={colour.copper} aria-hidden />
        )}
        <span>
          <Mono>{variant}</Mono> is made
          {sound ? ', and its files hold together' : ', but its files do not say what was planned'}
        </span>
      </h1>
      <p>
        {made.length} items copied, {shared.length} shared. The variant’s files were made and read back; of{' '}
        {proof.references} references of copied items:
      </p>
      <Counts>
        <Count value={proof.copied} text="lead to copies" />
        <Count value={proof.shared} text="lead to shared items" />
        <Count value={proof.dangling} text="dangling" />
        <Count value={proof.leaking} text="leaking to the origin" />
      </Counts>
      {proof.faults.map((fault) => (
        <p key={fault}>{fault}</p>
      ))}
      <Links>
        <Link to={traceAddress(variant)}>
          <Route size={15} aria-hidden /> Trace {variant}
        </Link>
        <Link to={compareAddress(origin, variant)}>Compare with {origin}</Link>
        <a href={fetchAddress(variant)} download>
          <Download size={15} aria-hidden /> Fetch the files
        </a>
      </Links>
      {notes.map((note) => (
        <Soft key={note}>{note}</Soft>
      ))}
    </Sheet>
  );
}

function Count({ value, text }: { readonly value: number; readonly text: string }): React.JSX.Element {
  return (
    <div>
      <Mono>{value}</Mono>
      <Soft>{text}</Soft>
    </div>
  );
}

const Sheet = styled.section`
  display: flex;
  flex-direction: column;
  gap: 12px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  padding: 20px 24px;
  overflow: auto;
  h1 {
    display: flex;
    gap: 10px;
    align-items: center;
  }
`;
const Counts = styled.div`
  display: flex;
  gap: 34px;
  > div {
    display: grid;
  }
  ${Mono} {
    font-size: 26px;
  }
`;
const Links = styled.nav`
  display: flex;
  gap: 20px;
  a {
    display: inline-flex;
    gap: 6px;
    align-items: center;
    font-weight: 500;
  }
`;
