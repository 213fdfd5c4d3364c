import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { CarryOutRequest, CorrectionRequest, IntakeView } from '@stem-trace/contract';
import { useState } from 'react';
import { send } from '../../api/client.js';
import { intakeQuery } from '../../api/queries.js';
import { Button, Choice, Field, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { Done } from './done.js';
import { Line } from './line.js';
import { Bar } from '../../ui/progress-bar.js';
import { ReviewTable } from './review-table.js';

/** The sheet: what was recognised, to be corrected and carried out. */
export function Reviewing({
  id,
  onAgain,
}: {
  readonly id: string;
  readonly onAgain: () => void;
}): React.JSX.Element {
  const sheet = useQuery(intakeQuery(id));
  const acts = useSheetActs(id);
  if (sheet.error) return <Trouble>{sheet.error.message}</Trouble>;
  if (!sheet.data) return <Soft>Working out the review …</Soft>;
  const view = sheet.data;
  switch (view.state) {
    case 'done':
      return <Done view={view} onAgain={onAgain} />;
    case 'unpacking':
      return <Bar label="Unpacking and reading" {...view.progress} />;
    case 'cancelled':
      return <GivenUp onAgain={onAgain} />;
    case 'carrying out':
      return (
        <>
          <Bar label="Carrying out" {...view.progress} />
          <Line>
            <Button onPress={() => acts.giveUp.mutate()}>Stop</Button>
            <Soft>All of it comes in, or nothing.</Soft>
          </Line>
        </>
      );
    default:
      return <Sheet view={view} acts={acts} onAgain={onAgain} />;
  }
}

/** What is done with a sheet; the answer is the sheet as it then is. */
function useSheetActs(id: string) {
  const queries = useQueryClient();
  const keep = (view: IntakeView): void => {
    queries.setQueryData(intakeQuery(id).queryKey, view);
  };
  const correct = useMutation({
    mutationFn: (request: CorrectionRequest) => send('PATCH', `/api/intakes/${id}`, request),
    onSuccess: keep,
  });
  const carryOut = useMutation({
    mutationFn: (request: CarryOutRequest) => send('POST', `/api/intakes/${id}/carry-out`, request),
    onSuccess: async (view) => {
      keep(view);
      await queries.invalidateQueries({
        predicate: ({ queryKey }) => queryKey[0] !== 'intake' && queryKey[0] !== 'session',
      });
    },
  });
  const giveUp = useMutation({
    mutationFn: () => send('POST', `/api/intakes/${id}/cancel`),
    onSuccess: keep,
  });
  return { correct, carryOut, giveUp };
}

interface SheetProps {
  readonly view: IntakeView;
  readonly acts: ReturnType<typeof useSheetActs>;
  readonly onAgain: () => void;
}

function Sheet({ view, acts, onAgain }: SheetProps): React.JSX.Element {
  const { expected, workingCopy } = view;
  const { correct, carryOut } = acts;
  return (
    <>
      <Line>
        <h1>
          {workingCopy
            ? `Check in: working copy of ${workingCopy.item} ${workingCopy.version}`
            : `Review: ${view.place}`}
        </h1>
        <Soft>{sayExpected(expected)}</Soft>
      </Line>
      <ReviewTable
        view={view}
        onCorrect={(corrections) => correct.mutate({ corrections })}
        onReplaceNewer={(key) => correct.mutate({ corrections: {}, overwrite: [key] })}
      />
      {workingCopy && expected.missing.length > 0 ? (
        <Soft>
          Not sent, since unchanged or not in the folder: {count(expected.missing.length, 'file')} of the
          working copy.
        </Soft>
      ) : null}
      {correct.error ? <Trouble>{correct.error.message}</Trouble> : null}
      {carryOut.error ? <Trouble>{carryOut.error.message}</Trouble> : null}
      {view.failure ? <Trouble>{view.failure}</Trouble> : null}
      <CarryOut view={view} acts={acts} onAgain={onAgain} />
    </>
  );
}

/** The last word on a sheet: carried out, later, or never. */
function CarryOut({ view, acts, onAgain }: SheetProps): React.JSX.Element {
  const [comment, setComment] = useState('');
  const [letGo, setLetGo] = useState(true);
  const { expected, workingCopy } = view;
  const isBusy = acts.carryOut.isPending;
  return (
    <Line>
      <Field
        label="Comment for all new versions"
        value={comment}
        onChange={setComment}
        width="420px"
        placeholder="What changed, and why"
      />
      {workingCopy ? (
        <Choice<'letGo' | 'keep'>
          label="Holds of what is checked in"
          options={[
            { key: 'letGo', text: 'Let go' },
            { key: 'keep', text: 'Keep holding' },
          ]}
          value={letGo ? 'letGo' : 'keep'}
          onChange={(chosen) => setLetGo(chosen === 'letGo')}
        />
      ) : null}
      <PrimaryButton
        isDisabled={isBusy || expected.versions === 0}
        onPress={() => acts.carryOut.mutate({ comment, letGo })}
      >
        {expected.problems.length > 0
          ? `Bring in, leaving out ${count(expected.problems.length, 'problem')}`
          : workingCopy
            ? 'Check in'
            : 'Bring in'}
      </PrimaryButton>
      <Button isDisabled={isBusy} onPress={onAgain}>
        Later
      </Button>
      <Button isDisabled={isBusy} onPress={() => acts.giveUp.mutate()}>
        Discard this sheet
      </Button>
      {expected.versions === 0 ? <Soft>Nothing here is new or changed.</Soft> : null}
    </Line>
  );
}

function GivenUp({ onAgain }: { readonly onAgain: () => void }): React.JSX.Element {
  return (
    <Line>
      <Soft>This sheet was discarded; nothing in the store was changed.</Soft>
      <Button onPress={onAgain}>Bring in something else</Button>
    </Line>
  );
}

function sayExpected(expected: IntakeView['expected']): string {
  const passedOver = expected.passedOver.length;
  return [
    `${count(expected.files, 'file')}: ${count(expected.items, 'new item')}`,
    count(expected.versions, 'new version'),
    count(expected.links, 'link'),
    count(expected.gaps.length, 'gap'),
    ...(expected.refused.length > 0 ? [`${expected.refused.length} refused`] : []),
    count(expected.problems.length, 'problem') +
      (passedOver > 0 ? `; ${count(passedOver, 'file')} passed over` : ''),
  ].join(', ');
}

function count(number: number, what: string): string {
  return `${number} ${what}${number === 1 ? '' : 's'}`;
}
