import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { CorrectionRequest, IntakeView } from '@stem-trace/contract';
import { FolderInput } from 'lucide-react';
import { useState } from 'react';
import { DropZone, FileTrigger, ProgressBar, type DropItem } from 'react-aria-components';
import { Link, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { intakeQuery } from '../../api/queries.js';
import { Button, Choice, Field, Hint, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';
import { filesOfDrop, filesOfInput, topFolderOf, uploadAll, type PickedFile } from './files.js';
import { ReviewTable } from './review-table.js';
import { readWorkingCopy } from './working-copy.js';

/** Bringing files in: choose, review, carry out. */
export function IntakePlace(): React.JSX.Element {
  const [search, setSearch] = useSearchParams();
  const sheet = search.get('sheet') ?? '';
  return sheet === '' ? (
    <Choosing onReady={(id) => setSearch({ sheet: id })} />
  ) : (
    <Reviewing id={sheet} onAgain={() => setSearch({})} />
  );
}

function Choosing({ onReady }: { readonly onReady: (id: string) => void }): React.JSX.Element {
  const [place, setPlace] = useState('');
  const [prefix, setPrefix] = useState('');
  const [progress, setProgress] = useState<{ done: number; total: number }>();
  const bringIn = useMutation({
    mutationFn: async (picked: readonly PickedFile[]) => {
      if (picked.length === 0)
        throw new Error('There are no files in it. Choose a folder with design files.');
      const workingCopy = await readWorkingCopy(picked);
      const files = workingCopy?.changed ?? picked;
      setProgress({ done: 0, total: files.length });
      const created = await send<IntakeView>('POST', '/api/intakes', {
        place: place || `/${topFolderOf(picked)}`,
        prefix,
        ...(workingCopy ? { manifest: workingCopy.manifest } : {}),
      });
      await uploadAll(created.id, files, (done) => setProgress({ done, total: files.length }));
      return created.id;
    },
    onSuccess: onReady,
    onSettled: () => setProgress(undefined),
  });
  const drop = async (items: readonly DropItem[]): Promise<void> => bringIn.mutate(await filesOfDrop(items));
  return (
    <>
      <h1>Bring in files</h1>
      <Line>
        <Field
          label="Place in the store (the folder’s name where empty)"
          value={place}
          onChange={setPlace}
          width="320px"
          placeholder="/Projects/Tide station"
        />
        <Field label="Put before every number" value={prefix} onChange={setPrefix} mono width="180px" />
      </Line>
      <Zone onDrop={(event) => void drop(event.items)} aria-label="Drop a folder or files here">
        <FolderInput size={34} aria-hidden />
        <p>Drop a folder here, or files</p>
        <FileTrigger acceptDirectory onSelect={(list) => list && bringIn.mutate(filesOfInput(list))}>
          <PrimaryButton isDisabled={bringIn.isPending}>Choose a folder</PrimaryButton>
        </FileTrigger>
        <FileTrigger allowsMultiple onSelect={(list) => list && bringIn.mutate(filesOfInput(list))}>
          <Button isDisabled={bringIn.isPending}>Choose files</Button>
        </FileTrigger>
        <Hint>
          STEP files are read: products, uses, references between files. Nothing is written before you have
          seen what was recognised.
        </Hint>
      </Zone>
      {progress ? <Bar label="Reading files" {...progress} /> : null}
      {bringIn.error ? <Trouble>{bringIn.error.message}</Trouble> : null}
    </>
  );
}

function Reviewing({
  id,
  onAgain,
}: {
  readonly id: string;
  readonly onAgain: () => void;
}): React.JSX.Element {
  const queries = useQueryClient();
  const sheet = useQuery(intakeQuery(id));
  const [comment, setComment] = useState('');
  const [letGo, setLetGo] = useState(true);
  const keep = (view: IntakeView): void => {
    queries.setQueryData(intakeQuery(id).queryKey, view);
  };
  const correct = useMutation({
    mutationFn: (request: CorrectionRequest) => send<IntakeView>('PATCH', `/api/intakes/${id}`, request),
    onSuccess: keep,
  });
  const carryOut = useMutation({
    mutationFn: () => send<IntakeView>('POST', `/api/intakes/${id}/carry-out`, { comment, letGo }),
    onSuccess: async (view) => {
      keep(view);
      await queries.invalidateQueries({
        predicate: ({ queryKey }) => queryKey[0] !== 'intake' && queryKey[0] !== 'session',
      });
    },
  });
  if (sheet.error) return <Trouble>{sheet.error.message}</Trouble>;
  if (!sheet.data) return <Soft>Working out the review …</Soft>;
  const view = sheet.data;
  if (view.state === 'done') return <Done view={view} onAgain={onAgain} />;
  const { expected } = view;
  const isBusy = view.state === 'carrying out' || carryOut.isPending;
  return (
    <>
      <Line>
        <h1>
          {view.workingCopy
            ? `Check in: working copy of ${view.workingCopy.item} ${view.workingCopy.version}`
            : `Review: ${view.place}`}
        </h1>
        <Soft>{sayExpected(expected)}</Soft>
      </Line>
      <ReviewTable
        view={view}
        onCorrect={(key, correction) => correct.mutate({ corrections: { [key]: correction } })}
        onReplaceNewer={(key) => correct.mutate({ corrections: {}, overwrite: [key] })}
      />
      {view.workingCopy && expected.missing.length > 0 ? (
        <Soft>
          Not sent, since unchanged or not in the folder: {count(expected.missing.length, 'file')} of the
          working copy.
        </Soft>
      ) : null}
      {correct.error ? <Trouble>{correct.error.message}</Trouble> : null}
      {carryOut.error ? <Trouble>{carryOut.error.message}</Trouble> : null}
      {view.failure ? <Trouble>{view.failure}</Trouble> : null}
      {isBusy ? <Bar label="Carrying out" {...view.progress} /> : null}
      <Line>
        <Field
          label="Comment for all new versions"
          value={comment}
          onChange={setComment}
          width="420px"
          placeholder="What changed, and why"
        />
        {view.workingCopy ? (
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
        <PrimaryButton isDisabled={isBusy || expected.versions === 0} onPress={() => carryOut.mutate()}>
          {expected.problems.length > 0
            ? `Bring in, leaving out ${count(expected.problems.length, 'problem')}`
            : view.workingCopy
              ? 'Check in'
              : 'Bring in'}
        </PrimaryButton>
        <Button isDisabled={isBusy} onPress={onAgain}>
          Start over
        </Button>
        {expected.versions === 0 ? <Soft>Nothing here is new or changed.</Soft> : null}
      </Line>
    </>
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
      (passedOver > 0 ? `; ${count(passedOver, 'file')} of other kinds passed over` : ''),
  ].join(', ');
}

function count(number: number, what: string): string {
  return `${number} ${what}${number === 1 ? '' : 's'}`;
}

function Done({
  view,
  onAgain,
}: {
  readonly view: IntakeView;
  readonly onAgain: () => void;
}): React.JSX.Element {
  const result = view.result ?? view.expected;
  return (
    <Card aria-live="polite">
      <h1>{view.workingCopy ? 'Checked in' : 'Brought in'}</h1>
      <p>
        {result.files} files: {result.items} new items, {result.versions} new versions, {result.links} links
        {result.filled > 0 ? `, ${result.filled} older gaps filled` : ''}.
      </p>
      {result.gaps.map((gap) => (
        <p key={`${gap.file} ${gap.locator}`}>
          Gap: {gap.file} refers to ‘{gap.locator}’, which is not in the store.
        </p>
      ))}
      {result.problems.map((problem) => (
        <p key={`${problem.file} ${problem.reason}`}>
          Left out: {problem.file}: {problem.reason}
        </p>
      ))}
      <Line>
        <Link to="/find?sort=changed&order=down">See what came in</Link>
        <Button onPress={onAgain}>Bring in more</Button>
      </Line>
    </Card>
  );
}

function Bar({
  label,
  done,
  total,
}: {
  readonly label: string;
  readonly done: number;
  readonly total: number;
}): React.JSX.Element {
  return (
    <Progress aria-label={label} value={total === 0 ? 0 : (100 * done) / total}>
      {({ percentage }) => (
        <>
          <span>
            {label}: {done} of {total}
          </span>
          <div>
            <i style={{ width: `${percentage ?? 0}%` }} />
          </div>
        </>
      )}
    </Progress>
  );
}

const Line = styled.div`
  display: flex;
  gap: 14px;
  align-items: end;
  flex-wrap: wrap;
`;
const Zone = styled(DropZone)`
  flex: 0 1 340px;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 10px;
  border: 2px dashed ${colour.lineStrong};
  border-radius: 8px;
  background: ${colour.surface};
  color: ${colour.inkSoft};
  text-align: center;
  &[data-drop-target] {
    border-color: ${colour.petrol};
    background: ${colour.petrolSoft};
  }
`;
const Card = styled.section`
  display: flex;
  flex-direction: column;
  gap: 10px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  padding: 20px 24px;
  overflow: auto;
`;
const Progress = styled(ProgressBar)`
  display: grid;
  gap: 4px;
  max-width: 420px;
  div {
    height: 6px;
    background: ${colour.line};
    border-radius: 3px;
    overflow: hidden;
  }
  i {
    display: block;
    height: 100%;
    background: ${colour.petrol};
    transition: width 120ms;
  }
`;
