import { useQueryClient } from '@tanstack/react-query';
import type { ItemView } from '@stem-trace/contract';
import { stepsFrom, type LifecycleStep } from '@stem-trace/core';
import {
  Bell,
  BellOff,
  Link2,
  LockKeyhole,
  LockKeyholeOpen,
  PencilLine,
  SlidersHorizontal,
  Stamp,
} from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { useDeeds, type Deeds } from '../api/custody.js';
import { AskDialog } from '../ui/ask-dialog.js';
import { Button, Field, Mono, QuietButton, Soft, Trouble } from '../ui/controls.js';
import { AttentionMark } from '../ui/glyphs.js';
import { HolderTag } from '../ui/holder-tag.js';
import { When } from '../ui/when.js';
import { CheckOutDialog } from './check-out-dialog.js';
import { usePerson } from './person.js';
import { PropertiesDialog } from './properties-dialog.js';
import { RenameActions } from './rename-actions.js';

/** What is asked for before a deed is done. */
type Asking = 'what to check out' | 'properties' | 'what it belongs to' | LifecycleStep | undefined;

interface Acting {
  readonly item: ItemView;
  readonly deeds: Deeds;
  readonly isMine: boolean;
  readonly mayChange: boolean;
  readonly ask: (asking: Asking) => void;
  readonly take: (step: LifecycleStep, reason: string) => void;
}

/** Who holds the item under the cursor, and what may be done about it by the one who looks. */
export function CustodyActions({ item }: { readonly item: ItemView }): React.JSX.Element {
  const person = usePerson();
  const deeds = useDeeds();
  const [asking, ask] = useState<Asking>();
  const holder = item.heldBy;
  const acting: Acting = {
    item,
    deeds,
    ask,
    isMine: holder?.login === person.login,
    mayChange: item.rights.includes('change') && person.role !== 'viewer',
    take: (step, reason) => {
      ask(undefined);
      deeds.carryOut({ kind: 'step', request: { items: [item.number], step: step.name, reason } });
    },
  };
  return (
    <Block>
      {holder ? (
        <p>
          <HolderTag holder={holder} /> Held by {acting.isMine ? 'you' : holder.name},{' '}
          <When at={holder.since} />
          {holder.reason === '' ? null : <Soft> — {holder.reason}</Soft>}
        </p>
      ) : null}
      <Line>
        <CheckOutButton {...acting} />
        <HolderButtons {...acting} />
        <StepButtons {...acting} />
        {acting.mayChange ? <RenameActions item={item} /> : null}
        <QuietButton
          onPress={() => deeds.carryOut({ kind: 'watch', item: item.number, watch: !item.watched })}
        >
          {item.watched ? <BellOff size={15} aria-hidden /> : <Bell size={15} aria-hidden />}{' '}
          {item.watched ? 'Stop watching' : 'Watch'}
        </QuietButton>
      </Line>
      <Asked asking={asking} {...acting} />
      {item.shown === item.version ? <Behind {...acting} /> : null}
      {deeds.refusals.map((refusal) => (
        <Trouble key={refusal}>{refusal}</Trouble>
      ))}
    </Block>
  );
}

function CheckOutButton({ item, deeds, mayChange, ask }: Acting): React.JSX.Element | null {
  if (item.heldBy || !mayChange || item.state !== 'draft' || item.carrier) return null;
  const asksWhat = item.kind === 'assembly';
  return (
    <QuietButton
      isDisabled={deeds.isBusy}
      onPress={() =>
        asksWhat
          ? ask('what to check out')
          : deeds.carryOut({ kind: 'check out', items: [item.number], reason: '' })
      }
    >
      <LockKeyhole size={15} aria-hidden /> Check out{asksWhat ? ' …' : ''}
    </QuietButton>
  );
}

/** For whoever holds it. */
function HolderButtons({ item, deeds, isMine, ask }: Acting): React.JSX.Element | null {
  if (!isMine) return null;
  return (
    <>
      <QuietButton
        isDisabled={deeds.isBusy}
        onPress={() => deeds.carryOut({ kind: 'let go', items: [item.number] })}
      >
        <LockKeyholeOpen size={15} aria-hidden /> Let go
      </QuietButton>
      <QuietButton onPress={() => ask('properties')}>
        <SlidersHorizontal size={15} aria-hidden /> Properties …
      </QuietButton>
      {item.kind === 'drawing' || item.kind === 'document' ? (
        <QuietButton onPress={() => ask('what it belongs to')}>
          <Link2 size={15} aria-hidden /> Belongs to …
        </QuietButton>
      ) : null}
    </>
  );
}

/** Steps of the lifecycle; what is held takes none. */
function StepButtons({ item, deeds, mayChange, ask, take }: Acting): React.JSX.Element {
  const person = usePerson();
  const steps = item.heldBy
    ? []
    : stepsFrom(item.state, person.role).filter(({ name }) =>
        item.rights.includes(name === 'ask for check' ? 'change' : 'release'),
      );
  return (
    <>
      {item.state === 'released' && mayChange && !item.carrier ? (
        <QuietButton
          isDisabled={deeds.isBusy}
          onPress={() => deeds.carryOut({ kind: 'revise', items: [item.number] })}
        >
          <PencilLine size={15} aria-hidden /> Revise
        </QuietButton>
      ) : null}
      {steps.map((step) => (
        <QuietButton
          key={step.name}
          isDisabled={deeds.isBusy}
          onPress={() => (step.needsReason ? ask(step) : take(step, ''))}
        >
          <Stamp size={15} aria-hidden /> {capital(step.name)}
        </QuietButton>
      ))}
    </>
  );
}

function Asked({ asking, ...acting }: Acting & { readonly asking: Asking }): React.JSX.Element | null {
  const { item, deeds, ask, take } = acting;
  const onClose = (): void => ask(undefined);
  if (asking === undefined) return null;
  if (asking === 'what it belongs to') return <BelongingDialog item={item} onClose={onClose} />;
  if (asking === 'properties')
    return (
      <PropertiesDialog
        items={[item.number]}
        values={item.properties}
        itemClass={item.class}
        onClose={onClose}
      />
    );
  if (asking === 'what to check out')
    return (
      <CheckOutDialog
        item={item.number}
        onClose={onClose}
        onChosen={(items, reason) => deeds.carryOut({ kind: 'check out', items, reason })}
      />
    );
  return (
    <AskReason what={capital(asking.name)} onReason={(reason) => take(asking, reason)} onCancel={onClose} />
  );
}

/** The model of a drawing or document, said by hand. */
function BelongingDialog({
  item,
  onClose,
}: {
  readonly item: ItemView;
  readonly onClose: () => void;
}): React.JSX.Element {
  const queries = useQueryClient();
  return (
    <AskDialog
      title={`What ${item.number} belongs to`}
      action="Save as new version"
      fields={[
        {
          key: 'model',
          label: 'Number of the part or assembly; nothing where empty',
          value: item.beside.find(({ isUser }) => !isUser)?.number ?? '',
        },
      ]}
      onAnswer={async ({ model = '' }) => {
        await send('POST', '/api/items/belong', { item: item.number, model });
        await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      }}
      onClose={onClose}
    />
  );
}

/** What it uses that has newer versions than it records. */
function Behind({ item, deeds, isMine }: Acting): React.JSX.Element | null {
  if (item.behindLinks.length === 0) return null;
  return (
    <>
      {item.behindLinks.map((link) => (
        <p key={link.number}>
          <AttentionMark>behind</AttentionMark> <Mono>{link.number}</Mono> is recorded as{' '}
          <Mono>{link.recorded}</Mono>; {link.says}
        </p>
      ))}
      {isMine ? (
        <Button
          isDisabled={deeds.isBusy}
          onPress={() => deeds.carryOut({ kind: 'catch up', items: [item.number] })}
        >
          Catch up
        </Button>
      ) : null}
    </>
  );
}

/** A sentence that the record keeps. */
function AskReason({
  what,
  onReason,
  onCancel,
}: {
  what: string;
  onReason: (reason: string) => void;
  onCancel: () => void;
}): React.JSX.Element {
  const [reason, setReason] = useState('');
  return (
    <>
      <Field label="Reason" value={reason} onChange={setReason} />
      <Line>
        <Button isDisabled={reason.trim() === ''} onPress={() => onReason(reason.trim())}>
          {what}
        </Button>
        <QuietButton onPress={onCancel}>Cancel</QuietButton>
      </Line>
    </>
  );
}

function capital(text: string): string {
  return text.slice(0, 1).toUpperCase() + text.slice(1);
}

const Block = styled.section`
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 6px;
  &:empty {
    display: none;
  }
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  margin-left: -4px;
  button {
    padding: 3px 6px;
    gap: 8px;
  }
`;
