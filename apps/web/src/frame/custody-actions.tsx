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
import { useDeeds } from '../api/custody.js';
import { AskDialog } from '../ui/ask-dialog.js';
import { Button, Field, QuietButton, Trouble } from '../ui/controls.js';
import { AttentionMark } from '../ui/glyphs.js';
import { HolderTag } from '../ui/holder-tag.js';
import { Mono, Soft } from '../ui/controls.js';
import { When } from '../ui/when.js';
import { CheckOutDialog } from './check-out-dialog.js';
import { usePerson } from './person.js';
import { PropertiesDialog } from './properties-dialog.js';
import { RenameActions } from './rename-actions.js';

/** Who holds the item under the cursor, and what may be done about it by the one who looks. */
export function CustodyActions({ item }: { readonly item: ItemView }): React.JSX.Element {
  const person = usePerson();
  const deeds = useDeeds();
  const [choosing, setChoosing] = useState(false);
  const [isEditing, setEditing] = useState(false);
  const [isBelonging, setBelonging] = useState(false);
  const queries = useQueryClient();
  const [asking, setAsking] = useState<LifecycleStep>();
  const holder = item.heldBy;
  const mine = holder?.login === person.login;
  const mayChange = item.rights.includes('change') && person.role !== 'viewer';
  const steps = holder
    ? []
    : stepsFrom(item.state, person.role).filter(({ name }) =>
        item.rights.includes(name === 'ask for check' ? 'change' : 'release'),
      );
  const take = (step: LifecycleStep, reason: string): void => {
    setAsking(undefined);
    deeds.carryOut({ kind: 'step', request: { items: [item.number], step: step.name, reason } });
  };
  return (
    <Block>
      {holder ? (
        <p>
          <HolderTag holder={holder} /> Held by {mine ? 'you' : holder.name}, <When at={holder.since} />
          {holder.reason === '' ? null : <Soft> — {holder.reason}</Soft>}
        </p>
      ) : null}
      <Line>
        {!holder && mayChange && item.state === 'draft' && !item.carrier ? (
          <QuietButton
            isDisabled={deeds.isBusy}
            onPress={() =>
              item.kind === 'assembly'
                ? setChoosing(true)
                : deeds.carryOut({ kind: 'check out', items: [item.number], reason: '' })
            }
          >
            <LockKeyhole size={15} aria-hidden /> Check out{item.kind === 'assembly' ? ' …' : ''}
          </QuietButton>
        ) : null}
        {mine ? (
          <QuietButton
            isDisabled={deeds.isBusy}
            onPress={() => deeds.carryOut({ kind: 'let go', items: [item.number] })}
          >
            <LockKeyholeOpen size={15} aria-hidden /> Let go
          </QuietButton>
        ) : null}
        {mine ? (
          <QuietButton onPress={() => setEditing(true)}>
            <SlidersHorizontal size={15} aria-hidden /> Properties …
          </QuietButton>
        ) : null}
        {mine && (item.kind === 'drawing' || item.kind === 'document') ? (
          <QuietButton onPress={() => setBelonging(true)}>
            <Link2 size={15} aria-hidden /> Belongs to …
          </QuietButton>
        ) : null}
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
            onPress={() => (step.needsReason ? setAsking(step) : take(step, ''))}
          >
            <Stamp size={15} aria-hidden /> {capital(step.name)}
          </QuietButton>
        ))}
        {mayChange ? <RenameActions item={item} /> : null}
        <QuietButton
          onPress={() => deeds.carryOut({ kind: 'watch', item: item.number, watch: !item.watched })}
        >
          {item.watched ? <BellOff size={15} aria-hidden /> : <Bell size={15} aria-hidden />}{' '}
          {item.watched ? 'Stop watching' : 'Watch'}
        </QuietButton>
      </Line>
      {isBelonging ? (
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
          onClose={() => setBelonging(false)}
        />
      ) : null}
      {isEditing ? (
        <PropertiesDialog
          items={[item.number]}
          values={item.properties}
          itemClass={item.class}
          onClose={() => setEditing(false)}
        />
      ) : null}
      {asking ? (
        <AskReason
          what={capital(asking.name)}
          onReason={(reason) => take(asking, reason)}
          onCancel={() => setAsking(undefined)}
        />
      ) : null}
      {item.behindLinks.length > 0 && item.shown === item.version ? (
        <>
          {item.behindLinks.map((link) => (
            <p key={link.number}>
              <AttentionMark>behind</AttentionMark> <Mono>{link.number}</Mono> is recorded as{' '}
              <Mono>{link.recorded}</Mono>; {link.says}
            </p>
          ))}
          {mine ? (
            <Button
              isDisabled={deeds.isBusy}
              onPress={() => deeds.carryOut({ kind: 'catch up', items: [item.number] })}
            >
              Catch up
            </Button>
          ) : null}
        </>
      ) : null}
      {deeds.refusals.map((refusal) => (
        <Trouble key={refusal}>{refusal}</Trouble>
      ))}
      {choosing ? (
        <CheckOutDialog
          item={item.number}
          onClose={() => setChoosing(false)}
          onChosen={(items, reason) => deeds.carryOut({ kind: 'check out', items, reason })}
        />
      ) : null}
    </Block>
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
