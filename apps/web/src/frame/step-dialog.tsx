import type { OfferedStep, StepPreview, StepRequest } from '@stem-trace/contract';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import styled from 'styled-components';
import { send } from '../api/client.js';
import { useStep } from '../api/custody.js';
import { capital } from '../ui/capital.js';
import { Button, Field, Mono, PrimaryButton, Soft, Trouble } from '../ui/controls.js';
import { DialogButtons, DialogFrame } from '../ui/dialog-frame.js';
import { isText, useDraft, type Draft } from '../ui/draft.js';
import { StateGlyph } from '../ui/glyphs.js';
import { colour } from '../ui/theme.js';
import { Tick } from '../ui/tick.js';
import { AskedPeople, NOBODY_ASKED, type Asked } from './asked-people.js';
import { usePerson } from './person.js';

export interface StepDialogProps {
  readonly items: readonly string[];
  readonly step: OfferedStep;
  /** Digests of items as the person was shown them before the dialog opened, by number. */
  readonly shown?: ReadonlyMap<string, string>;
  readonly onClose: () => void;
}

/** What is chosen besides the reason. */
interface Choices {
  readonly below: boolean;
  readonly leavesOut: boolean;
}

/** Before a step: what it will do, to how many, and what stands against it; a step that is signed asks for the password. */
export function StepDialog({ items, step, shown, onClose }: StepDialogProps): React.JSX.Element {
  const what = items.length === 1 ? items[0] : `${items.length} items`;
  const title = `${capital(step.name)}: ${what}`;
  const reason = useDraft(title, isText, '');
  const [choices, choose] = useState<Choices>({ below: false, leavesOut: false });
  const [asked, setAsked] = useState(NOBODY_ASKED);
  const preview = useQuery({
    queryKey: ['items', 'step', step.name, items, choices],
    queryFn: () => send('POST', '/api/steps/preview', { items, step: step.name, reason: '', ...choices }),
    placeholderData: keepPreviousData,
  });
  const pinned = usePinned(shown, preview.data);
  return (
    <DialogFrame title={title} widthPx={520} onClose={onClose}>
      <p>{step.says}</p>
      {preview.error ? <Trouble>{preview.error.message}</Trouble> : null}
      {preview.data ? (
        <>
          <Along asked={items} preview={preview.data} />
          <Consequences preview={preview.data} {...{ choices, choose }} />
        </>
      ) : (
        <Soft>Working out what it touches …</Soft>
      )}
      <Field
        label={step.asksReason ? 'Reason (needed, visible to everyone)' : 'Reason (visible to everyone)'}
        value={reason.value}
        onChange={reason.set}
        takesFocus
      />
      {step.isHandingOn ? <AskedPeople value={asked} onChange={setAsked} /> : null}
      <Taking {...{ items, step, choices, asked, reason, pinned, onClose }} preview={preview.data} />
    </DialogFrame>
  );
}

/**
 * The first digest seen of each item stays: a preview that is asked again while the dialog is open must not replace what the person
 * decides about.
 */
function usePinned(
  shown: ReadonlyMap<string, string> | undefined,
  preview: StepPreview | undefined,
): ReadonlyMap<string, string> {
  const [pinned, pin] = useState<ReadonlyMap<string, string>>(() => new Map(shown));
  const fresh = preview?.items.filter((each) => each.shown !== '' && !pinned.has(each.number)) ?? [];
  if (fresh.length === 0) return pinned;
  const more = new Map([...pinned, ...fresh.map((each) => [each.number, each.shown] as const)]);
  pin(more);
  return more;
}

interface TakingProps extends StepDialogProps {
  readonly pinned: ReadonlyMap<string, string>;
  readonly choices: Choices;
  readonly asked: Asked;
  readonly reason: Draft<string>;
  readonly preview: StepPreview | undefined;
}

/** The decision itself: signed where the step asks for that. What goes wrong is said here, and nothing that was typed is lost. */
function Taking({
  items,
  step,
  choices,
  asked: { people, until },
  reason,
  pinned,
  preview,
  onClose,
}: TakingProps): React.JSX.Element {
  const taking = useStep();
  const [password, setPassword] = useState('');
  const isSigned = (preview?.signatures ?? 0) > 0;
  const given = reason.value.trim();
  const going = preview ? preview.items.length : 0;
  const changed = preview?.items.filter((each) => isSigned && pinned.get(each.number) !== each.shown) ?? [];
  const isStopped =
    !preview || going === 0 || changed.length > 0 || (preview.refused.length > 0 && !choices.leavesOut);
  const lacks = (step.asksReason && given === '') || (isSigned && password === '');
  const take = (): void => {
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const signed = isSigned ? { password, zone, shown: Object.fromEntries(pinned) } : {};
    const asked = { ...(people.length === 0 ? {} : { for: people }), ...(until === '' ? {} : { until }) };
    const request: StepRequest = { items, step: step.name, reason: given, ...choices, ...asked, ...signed };
    taking.mutate(request, {
      onSuccess: () => {
        reason.forget();
        onClose();
      },
    });
  };
  return (
    <>
      {isSigned ? <Signing step={step} password={password} onPassword={setPassword} /> : null}
      {changed.length > 0 ? (
        <Trouble>
          Changed since you opened it:{' '}
          {changed.map(({ number, version }) => `${number} ${version}`).join(', ')}. Open it again before you
          sign.
        </Trouble>
      ) : null}
      {taking.error ? <Trouble>{taking.error.message}</Trouble> : null}
      <DialogButtons>
        <Button
          onPress={() => {
            reason.forget();
            onClose();
          }}
        >
          Cancel
        </Button>
        <PrimaryButton isDisabled={isStopped || lacks || taking.isPending} onPress={take}>
          {isSigned ? `Sign: ${step.name}` : capital(step.name)}
          {items.length !== going && going > 0 ? ` (${going})` : ''}
        </PrimaryButton>
      </DialogButtons>
    </>
  );
}

interface SigningProps {
  readonly step: OfferedStep;
  readonly password: string;
  readonly onPassword: (password: string) => void;
}

/** What one says by signing, as who. */
function Signing({ step: { name, signatures }, password, onPassword }: SigningProps): React.JSX.Element {
  const person = usePerson();
  const given = signatures?.given ?? [];
  const count = signatures?.count ?? 1;
  return (
    <Signature aria-label="Signature">
      <p>
        You sign “{name}” as <strong>{person.name}</strong>.{' '}
        {given.length > 0 ? `Signed by ${given.join(', ')}. ` : ''}
        {count > 1 ? `${given.length + 1} of ${count} signatures.` : ''}
      </p>
      <Field label="Your password, once more" type="password" value={password} onChange={onPassword} />
    </Signature>
  );
}

interface ConsequencesProps {
  readonly preview: StepPreview;
  readonly choices: Choices;
  readonly choose: (choices: Choices) => void;
}

/** What goes with what was asked for: all that a change order makes, and what was taken along. */
function Along({
  asked,
  preview,
}: {
  readonly asked: readonly string[];
  readonly preview: StepPreview;
}): React.JSX.Element | null {
  const named = new Set(asked.map((reference) => reference.split('@')[0]));
  const along = preview.items.filter(({ number }) => !named.has(number));
  if (along.length === 0) return null;
  return (
    <p>
      With it:{' '}
      <Mono>
        {along
          .slice(0, SHOWN)
          .map(({ number, version }) => `${number} ${version}`)
          .join(', ')}
      </Mono>{' '}
      {more(along.length)}
    </p>
  );
}

function Consequences({ preview, choices, choose }: ConsequencesProps): React.JSX.Element {
  const { refused, drafts, users, items } = preview;
  return (
    <>
      {refused.length > 0 ? (
        <Trouble as="div">
          {choices.leavesOut ? 'Left out:' : 'Refused, so that none would be changed:'}
          <List>
            {refused.slice(0, SHOWN).map((one) => (
              <li key={one}>{one}</li>
            ))}
          </List>
          {more(refused.length)}
        </Trouble>
      ) : null}
      {refused.length > 0 && (items.length > 1 || choices.leavesOut) ? (
        <Tick isSelected={choices.leavesOut} onChange={(leavesOut) => choose({ ...choices, leavesOut })}>
          Leave out what cannot go
        </Tick>
      ) : null}
      {users > 0 ? <Soft>{users === 1 ? 'One item records it.' : `${users} items record it.`}</Soft> : null}
      {drafts.length > 0 ? (
        <Warning role="alert">
          {drafts.length === 1 ? 'One item' : `${drafts.length} items`} below it{' '}
          {drafts.length === 1 ? 'does' : 'do'} not count as released:
          <List>
            {drafts.slice(0, SHOWN).map(({ number, name, version, state }) => (
              <li key={number}>
                <StateGlyph state={state} /> <Mono>{number}</Mono> <Mono>{version}</Mono> {name}
              </li>
            ))}
          </List>
          {more(drafts.length)}
          <Tick isSelected={choices.below} onChange={(below) => choose({ ...choices, below })}>
            {drafts.length === 1 ? 'Take it along' : 'Take them along'}
          </Tick>
        </Warning>
      ) : null}
    </>
  );
}

const SHOWN = 12;

function more(count: number): React.JSX.Element | null {
  return count > SHOWN ? <Soft>and {count - SHOWN} more</Soft> : null;
}

const List = styled.ul`
  margin: 4px 0 6px;
  padding-left: 18px;
  max-height: 220px;
  overflow: auto;
`;
const Warning = styled.div`
  border-left: 3px solid ${colour.copper};
  background: ${colour.copperSoft};
  padding: 8px 12px;
  border-radius: 2px;
`;
const Signature = styled.section`
  border-left: 3px solid ${colour.petrol};
  padding: 2px 0 2px 12px;
  p {
    margin: 0 0 6px;
  }
`;
