import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { DerivePreview, DeriveRequest } from '@stem-trace/contract';
import type { Decision } from '@stem-trace/core';
import { Redo2, Undo2 } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { Link, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { baselinesQuery, sayBaseline } from '../../api/issued.js';
import { useChangeSearch } from '../../frame/addresses.js';
import { BeginWith } from '../../frame/begin-with.js';
import { useLooked } from '../../frame/desk.js';
import { ItemPicker } from '../../frame/item-picker.js';
import { useKeyHints, type KeyHint } from '../../frame/keys.js';
import { PlacePicker } from '../../frame/place-picker.js';
import {
  Button,
  Choice,
  Hint,
  Mono,
  Pick,
  PrimaryButton,
  QuietButton,
  Soft,
  Trouble,
} from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { BeginAgain } from './begin-again.js';
import { CheckSheet } from './check-sheet.js';
import { DecideMany } from './decide-many.js';
import {
  asEverywhere,
  decide,
  decideSpot,
  draftFrom,
  requestAsSeen,
  requestOf,
  type DeriveDraft,
} from './draft.js';
import { NamingBar } from './naming-bar.js';
import { PasteDialog } from './paste-dialog.js';
import { PlanTree } from './plan-tree.js';
import { PlansDialog } from './plans-dialog.js';
import { ProofSheet } from './proof-sheet.js';
import { RuleList } from './rule-list.js';
import { SpotDialog, type SpotAsk } from './spot-dialog.js';
import { useDraft, type KeptDraft } from './use-draft.js';
import { askedAddition } from './asked-addition.js';
import { useNaming } from './use-naming.js';
import { usePreview } from './use-preview.js';

const STEPS = [
  { key: 'plan', text: '1  Plan' },
  { key: 'check', text: '2  Check and carry out' },
] as const;

type Step = (typeof STEPS)[number]['key'];

const KEYS: readonly KeyHint[] = [
  { key: 'c', says: 'Copy the line under the cursor, or all that are selected' },
  { key: 's', says: 'Share it, or them' },
  { key: 'o', says: 'Leave it out, or them' },
  { key: 'x', says: 'Swap it for another item' },
  { key: 'C  S  O  X', says: 'The same for this spot alone' },
  { key: 'a', says: 'Add something to the assembly under the cursor' },
  { key: 'd', says: 'Decide in a dialog' },
  { key: 'Space', says: 'Select a line; with Shift or Ctrl and the mouse several' },
  { key: 'Ctrl + Z, Ctrl + Y', says: 'Undo, redo' },
  { key: 'e', says: 'Edit its new number; the others follow' },
  { key: 'n  w', says: 'After an edit: a narrower or a wider reading' },
  { key: 'Enter  Esc', says: 'After an edit: take the reading, or keep it for that line alone' },
];

/** Making a variant in two steps that can be walked back. */
export function DeriveScreen(): React.JSX.Element {
  const [search, setSearch] = useSearchParams();
  const item = search.get('item') ?? '';
  const origin = (
    <ItemPicker
      label="Derive from"
      value={item}
      onChoose={(reference) => setSearch({ item: reference })}
      width="200px"
      takesFocus={item === ''}
    />
  );
  if (item !== '') return <Derivation key={item} {...{ item, origin }} />;
  return (
    <>
      <h1>Derive a variant</h1>
      <Row>
        {origin}
        <Link to="/wish">From wishes, by a recipe</Link>
      </Row>
      <Hint>
        Choose what to start from. Its files are copied or shared line by line; the copies refer to one
        another, and nothing is written until you say so.
      </Hint>
      <BeginWith onChoose={(reference) => setSearch({ item: reference })} />
    </>
  );
}

interface DerivationProps {
  readonly item: string;
  /** Chooses another origin. */
  readonly origin: ReactNode;
}

function Derivation({ item, origin }: DerivationProps): React.JSX.Element {
  const kept = useDraft(item);
  const { draft } = kept;
  const queries = useQueryClient();
  const request = useMemo(() => draft && requestOf(item, draft), [item, draft]);
  const { preview, error: planError } = usePreview(request);
  const carryOut = useMutation({
    mutationFn: (sent: DeriveRequest) => send('POST', '/api/derive', sent),
    onSuccess: async () => {
      kept.restart();
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'derive' });
    },
  });
  useLooked(preview?.origin);

  if (carryOut.data) return <ProofSheet result={carryOut.data} />;
  const error = kept.error ?? planError;
  if (error || !draft || !preview)
    return (
      <>
        <Row>{origin}</Row>
        {error ? <Trouble>{error.message}</Trouble> : <Soft>Working out the plan …</Soft>}
      </>
    );
  return (
    <>
      <Planning
        {...{ kept, draft, preview, origin }}
        isBusy={carryOut.isPending}
        carryOut={() => carryOut.mutate(requestAsSeen(item, draft, preview))}
      />
      {carryOut.error ? <Trouble>{carryOut.error.message}</Trouble> : null}
    </>
  );
}

/** Swaps or adds what an address asks for, once, as whoever tried a part does. */
function useAsked(kept: KeptDraft, draft: DeriveDraft, preview: DerivePreview): void {
  const [search] = useSearchParams();
  const changeSearch = useChangeSearch();
  const [swap, add] = [search.get('swap') ?? '', search.get('add') ?? ''];
  const asked = `${swap} ${add}`;
  const done = useRef(' ');
  useEffect(() => {
    if (done.current === asked) return;
    done.current = asked;
    const [from = '', to = ''] = swap.split('=');
    const addition = askedAddition(add);
    if (addition) kept.change({ added: [...draft.added, addition] });
    else if (from !== '' && to !== '')
      kept.change(decide(draft, preview, new Set([from]), 'swap', to).changes);
    changeSearch({ swap: '', add: '' });
  }, [asked, swap, add, kept, draft, preview, changeSearch]);
}

interface PlanningProps {
  readonly origin: ReactNode;
  readonly kept: KeptDraft;
  readonly draft: DeriveDraft;
  readonly preview: DerivePreview;
  readonly carryOut: () => void;
  readonly isBusy: boolean;
}

function Planning({ origin, kept, draft, preview, carryOut, isBusy }: PlanningProps): React.JSX.Element {
  const [step, setStep] = useState<Step>('plan');
  const { lines } = preview;
  useAsked(kept, draft, preview);
  const copied = lines.filter((line) => line.decision === 'copy');
  const clashes = lines.filter((line) => line.clash !== null);
  return (
    <>
      <Row>
        {origin}
        <Choice<Step> label="Step" options={STEPS} value={step} onChange={setStep} />
        <Soft>
          <Mono>{preview.origin.version}</Mono> {preview.origin.name}: {copied.length.toLocaleString('en-GB')}{' '}
          copied, {sayOthers(lines, draft.added.length)}
        </Soft>
        {clashes.length > 0 ? <AttentionMark>{sayProblems(clashes)}</AttentionMark> : null}
      </Row>
      {step === 'plan' ? (
        <Plan {...{ kept, draft, preview }} onCheck={() => setStep('check')} />
      ) : (
        <CheckSheet {...{ preview, copied, clashes, carryOut, isBusy }} />
      )}
    </>
  );
}

function sayOthers(lines: DerivePreview['lines'], added: number): string {
  const count = (decision: Decision): number => lines.filter((line) => line.decision === decision).length;
  const told = (number: number, what: string): string[] =>
    number === 0 ? [] : [`${number.toLocaleString('en-GB')} ${what}`];
  return [
    `${count('share').toLocaleString('en-GB')} shared`,
    ...told(count('swap'), 'swapped'),
    ...told(count('omit'), 'left out'),
    ...told(added, 'added'),
  ].join(', ');
}

/** Summed up before they are listed. */
function sayProblems(clashes: DerivePreview['lines']): string {
  const unnamed = clashes.filter(({ clash }) => clash?.says.startsWith('needs a new number')).length;
  const others = clashes.length - unnamed;
  return [
    unnamed === 0 ? '' : `${unnamed} ${unnamed === 1 ? 'copy needs a number' : 'copies need numbers'}`,
    others === 0 ? '' : `${others} ${others === 1 ? 'problem' : 'problems'}`,
  ]
    .filter((part) => part !== '')
    .join(', ');
}

function Plan({
  kept,
  draft,
  preview,
  onCheck,
}: Pick<PlanningProps, 'kept' | 'draft' | 'preview'> & { readonly onCheck: () => void }): React.JSX.Element {
  useKeyHints(KEYS);
  const naming = useNaming(draft, preview, kept.change);
  const [says, say] = useState('');
  const [picked, pick] = useState<ReadonlySet<string>>(new Set());
  const [asked, ask] = useState<SpotAsk>();
  const [pasted, paste] = useState<string>();
  const [isListing, listPlans] = useState(false);
  const decideAbout = (numbers: ReadonlySet<string>, decision: Decision, to = ''): void => {
    const decided = decide(draft, preview, numbers, decision, to);
    kept.change(decided.changes);
    say(decided.says);
    pick(new Set());
  };
  return (
    <>
      <PlanTools {...{ kept, draft, preview, onCheck }} onPlans={() => listPlans(true)} />
      <DecideMany {...{ preview, picked, say }} onDecide={decideAbout} />
      <RuleList
        draft={draft}
        onChange={kept.change}
        onPropose={() => void kept.propose()}
        onPaste={() => paste('')}
      />
      <NamingBar naming={naming} />
      {says === '' ? null : <p role="status">{says}</p>}
      <PlanTree
        preview={preview}
        {...{ picked }}
        onUndo={kept.undo}
        onRedo={kept.redo}
        onPick={pick}
        onDecide={decideAbout}
        onAsk={ask}
        onName={naming.edit}
        takesFocus={naming.understood ? '' : 'plan'}
      />
      <PlanDialogs
        {...{ kept, draft, preview, asked, pasted, isListing, say }}
        onEverywhere={(number, decision, to) => decideAbout(new Set([number]), decision, to)}
        onClose={() => {
          ask(undefined);
          paste(undefined);
          listPlans(false);
        }}
      />
    </>
  );
}

type PlanPart = Pick<PlanningProps, 'kept' | 'draft' | 'preview'>;

/** Numbers of baselines are long; what does not fit is read in the list. */
const Narrow = styled.div`
  select {
    width: 150px;
  }
`;

/** Which versions of what the origin is made of are meant, where something was frozen that holds it. */
function BaselinePick({ kept, draft, preview }: PlanPart): React.JSX.Element | null {
  const rows = useQuery(baselinesQuery(preview.origin.number)).data ?? [];
  const known = rows.some(({ id }) => id === draft.baseline) || draft.baseline === '';
  if (rows.length === 0 && known) return null;
  return (
    <Narrow>
      <Pick
        label="Versions of what is in it"
        value={draft.baseline}
        options={[
          { key: '', text: 'as recorded' },
          ...rows.map((each) => ({ key: each.id, text: `baseline of ${sayBaseline(each)}` })),
          ...(known ? [] : [{ key: draft.baseline, text: `baseline ${draft.baseline}` }]),
        ]}
        onChange={(baseline) => kept.change({ baseline })}
      />
    </Narrow>
  );
}

/** What is decided about the plan as a whole. */
function PlanTools({
  kept,
  draft,
  preview,
  onPlans,
  onCheck,
}: PlanPart & { readonly onPlans: () => void; readonly onCheck: () => void }): React.JSX.Element {
  return (
    <Row>
      <BeginAgain preview={preview} last={kept.last} onChange={kept.change} />
      {preview.configurations.length === 0 ? null : (
        <Pick
          label="Configuration"
          value={draft.configuration}
          options={[
            { key: '', text: 'all of them' },
            ...preview.configurations.map((key) => ({ key, text: key })),
          ]}
          onChange={(configuration) => kept.change({ configuration })}
        />
      )}
      <BaselinePick {...{ kept, draft, preview }} />
      <PlacePicker
        label="Place of the copies"
        value={draft.place}
        placeholder={preview.place}
        onChange={(place) => kept.change({ place })}
      />
      <QuietButton aria-label="Undo" isDisabled={!kept.canUndo} onPress={kept.undo}>
        <Undo2 size={15} aria-hidden />
      </QuietButton>
      <QuietButton aria-label="Redo" isDisabled={!kept.canRedo} onPress={kept.redo}>
        <Redo2 size={15} aria-hidden />
      </QuietButton>
      <Button onPress={onPlans}>Plans …</Button>
      <Spacer />
      <PrimaryButton onPress={onCheck}>Next: check</PrimaryButton>
    </Row>
  );
}

interface PlanDialogsProps extends PlanPart {
  readonly asked: SpotAsk | undefined;
  /** A block of cells; undefined where none is pasted. */
  readonly pasted: string | undefined;
  /** Whether the plans that are kept are looked at. */
  readonly isListing: boolean;
  readonly say: (says: string) => void;
  readonly onEverywhere: (number: string, decision: Decision, to: string) => void;
  readonly onClose: () => void;
}

function PlanDialogs({
  kept,
  draft,
  preview,
  asked,
  pasted,
  isListing,
  say,
  onEverywhere,
  onClose,
}: PlanDialogsProps): React.JSX.Element {
  return (
    <>
      {asked ? (
        <SpotDialog
          ask={asked}
          onEverywhere={onEverywhere}
          onHere={(choice) => kept.change(decideSpot(draft, choice))}
          onAsEverywhere={(chain) => kept.change(asEverywhere(draft, chain))}
          onAdd={(choice) => kept.change({ added: [...draft.added, choice] })}
          onClose={onClose}
        />
      ) : null}
      {isListing ? (
        <PlansDialog
          item={preview.origin.number}
          request={requestOf(preview.origin.number, draft)}
          onOpen={(request, name) => {
            kept.change({ ...draftFrom(request), key: draft.key });
            say(`“${name}” is the plan now. Undo goes back.`);
          }}
          onClose={onClose}
        />
      ) : null}
      {pasted === undefined ? null : (
        <PasteDialog
          {...{ preview, block: pasted }}
          onNames={(renamed) => kept.change({ renamed: { ...draft.renamed, ...renamed } })}
          onClose={onClose}
        />
      )}
    </>
  );
}

const Row = styled.div`
  display: flex;
  align-items: end;
  gap: 12px;
  flex-wrap: wrap;
  > span {
    margin-bottom: 5px;
  }
`;
const Spacer = styled.span`
  flex: 1;
`;
