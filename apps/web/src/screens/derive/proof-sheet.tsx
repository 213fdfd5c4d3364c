import type { DeriveResult } from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { Download, Hourglass, Route, ShieldCheck, TriangleAlert } from 'lucide-react';
import { useEffect } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { compareAddress, fetchAddress, traceAddress } from '../../frame/addresses.js';
import { useDesk } from '../../frame/desk.js';
import { Button, Mono, Soft, Trouble } from '../../ui/controls.js';
import { Bar } from '../../ui/progress-bar.js';
import { colour } from '../../ui/theme.js';
import { ProofRows } from './proof-rows.js';
import { useProof } from './use-proof.js';

/** The variant as soon as it is made, and then the proof that its files say what was planned. */
export function ProofSheet({ result }: { readonly result: DeriveResult }): React.JSX.Element {
  const { pointAt } = useDesk();
  const { made, shared, notes, variant } = result;
  useEffect(() => pointAt(variant), [pointAt, variant]);
  const { job, proof, error, isPending, end, proveAgain } = useProof(variant);
  const origin = made[0]?.from ?? '';
  return (
    <Sheet aria-live="polite">
      <h1>
        {isSound(proof) ? (
          <ShieldCheck size={20} color={colour.petrol} aria-hidden />
        ) : isPending ? (
          <Hourglass size={20} color={colour.inkSoft} aria-hidden />
        ) : (
          <TriangleAlert size={20} color={colour.copper} aria-hidden />
        )}
        <span>
          <Mono>{variant}</Mono> is made{proof ? verdictOf(proof) : ''}
        </span>
      </h1>
      <p>
        {made.length} items copied, {shared.length} shared{sayOthers(result)}.{' '}
        {isPending ? 'Its files are being made and read back, to count where their references lead …' : ''}
        {proof
          ? `The variant’s files were made and read back; of ${proof.references} references of copied items:`
          : ''}
      </p>
      {isPending && job ? (
        <Waiting>
          <Bar label="Files read back" {...job.progress} />
          <Button onPress={() => void end()}>Stop the proof</Button>
        </Waiting>
      ) : null}
      {error ? (
        <Waiting>
          <Trouble>{error.message}</Trouble>
          <Button onPress={() => void proveAgain()}>Run the proof again</Button>
        </Waiting>
      ) : null}
      {proof ? <Counted proof={proof} /> : null}
      <Links>
        <Link to={traceAddress(variant)}>
          <Route size={15} aria-hidden /> Trace {variant}
        </Link>
        <Link to={compareAddress(origin, variant)}>Compare with {origin}</Link>
        <a href={`${fetchAddress(variant)}&drawings=true`} download>
          <Download size={15} aria-hidden /> Fetch the files
        </a>
      </Links>
      {proof ? <ProofRows variant={variant} about={JSON.stringify(proof)} /> : null}
      {notes.slice(0, SHOWN).map((note) => (
        <Soft key={note}>{note}</Soft>
      ))}
      {notes.length > SHOWN ? <Soft>and {notes.length - SHOWN} more</Soft> : null}
    </Sheet>
  );
}

function sayOthers({ swapped, omitted }: DeriveResult): string {
  return [
    ...(swapped.length === 0 ? [] : [`, ${swapped.length} swapped`]),
    ...(omitted.length === 0 ? [] : [`, ${omitted.length} left out`]),
  ].join('');
}

/** Most lines of one kind; a tree of ten thousand items has as many. */
const SHOWN = 50;

function isSound(proof: Proof | undefined): boolean {
  return proof !== undefined && proof.dangling === 0 && proof.leaking === 0;
}

function verdictOf(proof: Proof): string {
  return isSound(proof) ? ', and its files hold together' : ', but its files do not say what was planned';
}

function Counted({ proof }: { readonly proof: Proof }): React.JSX.Element {
  return (
    <>
      <Counts>
        <Count value={proof.copied} text="lead to copies" />
        <Count value={proof.shared} text="lead to shared items" />
        <Count value={proof.dangling} text="dangling" />
        <Count value={proof.leaking} text="leaking to the origin" />
      </Counts>
      {proof.faults.slice(0, SHOWN).map((fault) => (
        <p key={fault}>{fault}</p>
      ))}
      {proof.faults.length > SHOWN ? <p>and {proof.faults.length - SHOWN} more</p> : null}
    </>
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
const Waiting = styled.div`
  display: flex;
  gap: 14px;
  align-items: center;
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
