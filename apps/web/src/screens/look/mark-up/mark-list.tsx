/** What was drawn and written, beside the picture: what is open first, with answers. */
import { MARK_TONES, type MarkUpRow } from '@stem-trace/contract';
import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import {
  Box,
  Button,
  Pick as PickOne,
  PrimaryButton,
  QuietButton,
  Soft,
  Trouble,
} from '../../../ui/controls.js';
import { lookAddress } from '../../../frame/addresses.js';
import { usePerson } from '../../../frame/person.js';
import { RequestDialog } from '../../../frame/request-dialog.js';
import { colour } from '../../../ui/theme.js';
import { When } from '../../../ui/when.js';
import { TONES } from './tones.js';
import type { Draft, Marking } from './use-marking.js';

/** What a list of marks needs to know and to do. */
export interface Marked extends Pick<
  Marking,
  'rows' | 'marks' | 'closed' | 'chosen' | 'choosing' | 'finish' | 'cancel'
> {
  /** Waits for its words. */
  readonly draft: Pick<Draft, 'kind'> | undefined;
}

export interface MarkListProps {
  readonly marking: Marked;
  /** How one begins, where nothing is drawn yet. */
  readonly begins: string;
  /** Shows the sheet that a mark is on, and where. */
  readonly show: (row: MarkUpRow) => void;
}

export function MarkList({ marking, begins, show }: MarkListProps): React.JSX.Element {
  const { rows, draft, finish, cancel, marks, closed } = marking;
  const [by, filter] = useState('');
  const [showsSettled, showSettled] = useState(false);
  const people = [...new Set(rows.map((row) => row.by))];
  const shown = rows.filter(
    (row) =>
      (by === '' || row.by === by) && (showsSettled || row.settledAt === null || row.id === marking.chosen),
  );
  const settled = rows.filter(({ settledAt }) => settledAt !== null).length;
  return (
    <>
      {marks.trouble === '' ? null : <Trouble>{marks.trouble}</Trouble>}
      {draft ? <Words {...{ finish, cancel }} isNeeded={draft.kind === 'text'} /> : null}
      {rows.length === 0 && !draft ? (
        <Soft>{closed === '' ? `Nothing is drawn on it. ${begins}` : 'Nothing was drawn on it.'}</Soft>
      ) : null}
      {people.length > 1 ? (
        <PickOne
          label="By"
          options={[{ key: '', text: 'everybody' }, ...people.map((key) => ({ key, text: key }))]}
          value={by}
          onChange={filter}
        />
      ) : null}
      <List>
        {shown.map((row) => (
          <Row key={row.id} {...{ row, marking, show }} number={rows.indexOf(row) + 1} />
        ))}
      </List>
      {settled > 0 ? (
        <label>
          <input type="checkbox" checked={showsSettled} onChange={() => showSettled(!showsSettled)} /> settled
          ones too ({settled})
        </label>
      ) : null}
    </>
  );
}

/** What a new mark says. */
function Words({
  finish,
  cancel,
  isNeeded,
}: {
  readonly finish: (words: string) => Promise<void>;
  readonly cancel: () => void;
  readonly isNeeded: boolean;
}): React.JSX.Element {
  const [words, say] = useState('');
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => field.current?.focus(), []);
  const isReady = !isNeeded || words.trim() !== '';
  return (
    <Form
      onSubmit={(event) => {
        event.preventDefault();
        if (isReady) void finish(words.trim());
      }}
    >
      <textarea
        ref={field}
        aria-label="What it says"
        placeholder={isNeeded ? 'What it says' : 'What it says (may be empty)'}
        rows={3}
        maxLength={2000}
        value={words}
        onChange={({ target }) => say(target.value)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Escape') cancel();
          if (event.key === 'Enter' && !event.shiftKey) {
            event.preventDefault();
            if (isReady) void finish(words.trim());
          }
        }}
      />
      <div>
        <PrimaryButton type="submit" isDisabled={!isReady}>
          Keep (Enter)
        </PrimaryButton>{' '}
        <Button onPress={cancel}>Cancel</Button>
      </div>
    </Form>
  );
}

interface RowProps extends Omit<MarkListProps, 'begins'> {
  readonly row: MarkUpRow;
  readonly number: number;
}

function Row({ row, number, marking, show }: RowProps): React.JSX.Element {
  const { chosen, choosing, marks, closed } = marking;
  const isChosen = chosen === row.id;
  const tone = TONES[row.tone];
  const choose = (): void => {
    choosing(row.id);
    show(row);
  };
  return (
    <li data-chosen={isChosen || undefined}>
      <Head type="button" onClick={choose} aria-expanded={isChosen}>
        <svg width={24} height={24} viewBox="-12 -12 24 24" aria-hidden style={{ color: tone.colour }}>
          <path d={tone.sign} fill="currentcolor" />
          <text y={4} textAnchor="middle" fontSize={11} fill="#ffffff" fontWeight={600}>
            {number}
          </text>
        </svg>
        <span>
          {row.words === '' ? <Soft>{row.kind}</Soft> : row.words}
          <Small>
            {tone.says}, {row.by}, <When at={row.at} />
            {row.sheet === '' ? '' : `, ${row.sheet}`}
            {row.version === marks.answer?.version ? '' : `, on ${row.version}`}
            {row.remarks.length > 0
              ? `, ${row.remarks.length} ${row.remarks.length === 1 ? 'answer' : 'answers'}`
              : ''}
            {row.settledBy === null ? '' : `; settled by ${row.settledBy}`}
          </Small>
        </span>
      </Head>
      {isChosen ? <Answers {...{ row, marks }} isClosed={closed !== ''} /> : null}
    </li>
  );
}

function Answers({
  row,
  marks,
  isClosed,
}: {
  readonly row: MarkUpRow;
  readonly marks: Marking['marks'];
  readonly isClosed: boolean;
}): React.JSX.Element {
  const [words, say] = useState('');
  const isOwn = row.isMine && row.version === marks.answer?.version;
  const answer = async (): Promise<void> => {
    if (words.trim() !== '' && (await marks.remark(row, words.trim()))) say('');
  };
  return (
    <Below>
      {row.remarks.map((remark) => (
        <p key={`${remark.at} ${remark.by}`}>
          {remark.words}
          <Small>
            {remark.by}, <When at={remark.at} />
          </Small>
        </p>
      ))}
      {isClosed ? null : (
        <>
          <Box
            aria-label="Answer"
            placeholder="Answer"
            maxLength={2000}
            value={words}
            onChange={({ target }) => say(target.value)}
            onKeyDown={(event) => {
              if (event.key !== 'Enter') return;
              event.stopPropagation();
              void answer();
            }}
          />
          <div>
            <Button onPress={() => void marks.settle(row, row.settledAt === null)}>
              {row.settledAt === null ? 'Settle' : 'Open again'}
            </Button>{' '}
            <RequestFromMark row={row} item={marks.answer?.item ?? ''} />
            {isOwn ? <QuietButton onPress={() => void marks.remove(row)}>Take away</QuietButton> : null}
          </div>
          {isOwn ? (
            <PickOne
              label="It is"
              options={MARK_TONES.map((key) => ({ key, text: TONES[key].says }))}
              value={row.tone}
              onChange={(tone) => void marks.change(row, { tone: tone as MarkUpRow['tone'] })}
            />
          ) : null}
        </>
      )}
    </Below>
  );
}

/** What somebody wrote on a picture becomes a change request, with the mark as evidence. */
function RequestFromMark({
  row,
  item,
}: {
  readonly row: MarkUpRow;
  readonly item: string;
}): React.JSX.Element | null {
  const [isAsking, ask] = useState(false);
  const person = usePerson();
  if (item === '' || person.role === 'viewer') return null;
  const evidence = {
    says: row.words === '' ? `${row.kind} by ${row.by}` : row.words.slice(0, 200),
    address: lookAddress(`${item}@${row.version}`),
  };
  return (
    <>
      <QuietButton onPress={() => ask(true)}>Request a change …</QuietButton>
      {isAsking ? (
        <RequestDialog items={[item]} why={row.words} evidence={[evidence]} onClose={() => ask(false)} />
      ) : null}
    </>
  );
}

const List = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  li[data-chosen] {
    background: ${colour.petrolSoft};
    border-radius: 4px;
  }
`;
const Head = styled.button`
  display: flex;
  gap: 6px;
  align-items: flex-start;
  width: 100%;
  padding: 4px;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
  overflow-wrap: anywhere;
  svg {
    flex: none;
  }
`;
const Small = styled.span`
  display: block;
  color: ${colour.inkSoft};
  font-size: 12px;
`;
const Below = styled.div`
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 2px 6px 8px 34px;
`;
const Form = styled.form`
  display: flex;
  flex-direction: column;
  gap: 6px;
  textarea {
    font: inherit;
    color: inherit;
    background: ${colour.raised};
    border: 1px solid ${colour.lineStrong};
    border-radius: 4px;
    padding: 6px;
  }
`;
