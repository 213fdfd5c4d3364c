import { useQueryClient } from '@tanstack/react-query';
import type { ItemView, OfferedStep } from '@stem-trace/contract';
import { isChange } from '@stem-trace/core';
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
import { Link } from 'react-router';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { useDeeds, type Deeds } from '../api/custody.js';
import { AskDialog, type AskedField } from '../ui/ask-dialog.js';
import { capital } from '../ui/capital.js';
import { Button, Mono, QuietButton, Soft, Trouble } from '../ui/controls.js';
import { AttentionMark } from '../ui/glyphs.js';
import { HolderTag } from '../ui/holder-tag.js';
import { useStates } from '../ui/states.js';
import { When } from '../ui/when.js';
import { changeAddress } from './addresses.js';
import { CheckOutDialog } from './check-out-dialog.js';
import { OrderField } from './order-field.js';
import { usePerson } from './person.js';
import { PropertiesDialog } from './properties-dialog.js';
import { RenameActions } from './rename-actions.js';
import { StepDialog } from './step-dialog.js';
import { useUndo } from './undo.js';

/** What is asked for before a deed is done. */
type Asking =
  | 'what to check out'
  | 'properties'
  | 'what it belongs to'
  | 'why it is held'
  | 'for what it is wanted'
  | 'whether to let go'
  | 'why to revise'
  | OfferedStep
  | undefined;

interface Acting {
  readonly item: ItemView;
  readonly deeds: Deeds;
  readonly isMine: boolean;
  readonly mayChange: boolean;
  readonly ask: (asking: Asking) => void;
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
  };
  return (
    <Block>
      {holder ? (
        <p>
          <HolderTag holder={holder} /> Held by {acting.isMine ? 'you' : holder.name},{' '}
          <When at={holder.since} />
          {holder.change ? (
            <>
              , for <Link to={changeAddress(holder.change)}>{holder.change}</Link>
            </>
          ) : null}
          {holder.reason === '' ? null : <Soft> — {holder.reason}</Soft>}{' '}
          {acting.isMine ? (
            <SmallButton onPress={() => ask('why it is held')}>
              {holder.reason === '' ? 'Give a reason …' : 'Change the reason …'}
            </SmallButton>
          ) : (
            <SmallButton onPress={() => ask('for what it is wanted')}>Ask to let go …</SmallButton>
          )}
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
  const lane = useStates().get(item.state)?.lane;
  if (item.heldBy || !mayChange || lane !== 'open' || item.carrier || isChange(item.kind)) return null;
  return (
    <QuietButton isDisabled={deeds.isBusy} onPress={() => ask('what to check out')}>
      <LockKeyhole size={15} aria-hidden /> Check out …
    </QuietButton>
  );
}

/** For whoever holds it. */
function HolderButtons({ item, deeds, isMine, ask }: Acting): React.JSX.Element | null {
  if (!isMine) return null;
  return (
    <>
      <QuietButton isDisabled={deeds.isBusy} onPress={() => ask('whether to let go')}>
        <LockKeyholeOpen size={15} aria-hidden /> Let go …
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
function StepButtons({ item, deeds, mayChange, ask }: Acting): React.JSX.Element {
  const lane = useStates().get(item.state)?.lane;
  return (
    <>
      {lane === 'locked' && mayChange && !item.carrier && !isChange(item.kind) ? (
        <QuietButton isDisabled={deeds.isBusy} onPress={() => ask('why to revise')}>
          <PencilLine size={15} aria-hidden /> Revise …
        </QuietButton>
      ) : null}
      {item.steps.map((step) => (
        <QuietButton key={step.name} isDisabled={deeds.isBusy} onPress={() => ask(step)}>
          <Stamp size={15} aria-hidden /> {capital(step.name)} …
        </QuietButton>
      ))}
    </>
  );
}

function Asked({ asking, ...acting }: Acting & { readonly asking: Asking }): React.JSX.Element | null {
  const { item, deeds, ask } = acting;
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
        items={[item.number]}
        onClose={onClose}
        onChosen={(items, reason, change) => deeds.carryOut({ kind: 'check out', items, reason, change })}
      />
    );
  if (typeof asking === 'string') return <ReasonDialog {...{ item, deeds, onClose }} asking={asking} />;
  return <StepDialog items={[item.number]} step={asking} onClose={onClose} />;
}

type Reasoned = Extract<
  Asking,
  'why it is held' | 'for what it is wanted' | 'whether to let go' | 'why to revise'
>;

/** What each of these says before it is done. */
const REASONED: Readonly<
  Record<Reasoned, { readonly title: string; readonly action: string; readonly says: string }>
> = {
  'why it is held': {
    title: 'Reason for holding',
    action: 'Save',
    says: 'Everybody who looks at it sees the reason.',
  },
  'for what it is wanted': {
    title: 'Ask to let go:',
    action: 'Ask',
    says: 'The holder finds the question in the inbox and can answer there.',
  },
  'whether to let go': {
    title: 'Let go',
    action: 'Let go',
    says: 'Others can check it out then. What you have not checked in stays on your disk.',
  },
  'why to revise': {
    title: 'Revise',
    action: 'Revise',
    says: 'Opens the next revision with a draft of what is released, checked out to you. The released version stays in force.',
  },
};

const ORDER: AskedField = {
  ...{ key: 'change', label: 'For the change order', value: '' },
  render: (value, onChange) => <OrderField value={value} onChange={onChange} />,
};

function ReasonDialog({
  item,
  deeds,
  asking,
  onClose,
}: Pick<Acting, 'item' | 'deeds'> & {
  readonly asking: Reasoned;
  readonly onClose: () => void;
}): React.JSX.Element {
  const offerUndo = useUndo();
  const { title, action, says } = REASONED[asking];
  const { number, heldBy } = item;
  const before = heldBy?.reason ?? '';
  const asks = asking !== 'whether to let go';
  const value = asking === 'why it is held' ? before : '';
  return (
    <AskDialog
      title={`${title} ${number}`}
      action={action}
      says={says}
      fields={[
        ...(asks ? [{ key: 'reason', label: 'Reason (visible to everyone)', value }] : []),
        ...(asking === 'why to revise' ? [ORDER] : []),
      ]}
      onAnswer={({ reason = '', change = '' }) => {
        const items = [number];
        switch (asking) {
          case 'why it is held':
            deeds.carryOut({ kind: 'say why', items, reason });
            break;
          case 'for what it is wanted':
            deeds.carryOut({ kind: 'ask holder', item: number, reason });
            break;
          case 'why to revise':
            deeds.carryOut({ kind: 'revise', items, reason, change });
            break;
          case 'whether to let go':
            deeds.carryOut({ kind: 'let go', items });
            offerUndo({
              says: `${number} was let go.`,
              undo: () => send('POST', '/api/holds', { items, reason: before, change: heldBy?.change ?? '' }),
            });
        }
        return Promise.resolve();
      }}
      onClose={onClose}
    />
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
          label: 'Number of the part or assembly (empty: none)',
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

const SmallButton = styled(QuietButton)`
  min-height: 24px;
  padding: 0 4px;
`;
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
