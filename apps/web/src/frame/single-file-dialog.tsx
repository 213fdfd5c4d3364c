import type { IntakeView } from '@stem-trace/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { beginSheet } from '../api/begin-sheet.js';
import { get, send } from '../api/client.js';
import type { PickedFile } from '../api/picked-files.js';
import { propertiesQuery, itemSchemesQuery } from '../api/properties.js';
import { Button, Field, Hint, Pick, PrimaryButton, Trouble } from '../ui/controls.js';
import { DialogButtons, DialogFrame } from '../ui/dialog-frame.js';
import { traceAddress } from './addresses.js';
import { IssuedFrom } from './issued-from.js';
import { PlacePicker } from './place-picker.js';

export interface SingleFileDialogProps {
  readonly picked: PickedFile;
  /** Where it goes, unless another place is chosen. */
  readonly place: string;
  readonly onClose: () => void;
}

interface Answers {
  /** Empty for the one that the file gives. */
  readonly number: string;
  /** Scheme whose next number it gets instead; empty for none. */
  readonly scheme: string;
  readonly name: string;
  readonly itemClass: string;
  readonly properties: Readonly<Record<string, string>>;
  readonly place: string;
  readonly comment: string;
}

/** Brings one file in with a short form; where it wants to be looked at first, the review opens instead. */
export function SingleFileDialog({ picked, place, onClose }: SingleFileDialogProps): React.JSX.Element {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [answers, setAnswers] = useState<Answers>({
    ...{ number: '', scheme: '', name: '', itemClass: '', properties: {}, comment: '' },
    place: place === '' ? '/' : place,
  });
  const [trouble, setTrouble] = useState('');
  const [isBusy, setBusy] = useState(false);
  const bringIn = async (): Promise<void> => {
    setBusy(true);
    setTrouble('');
    try {
      const outcome = await bringInOne(picked, answers);
      void queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      onClose();
      void navigate('sheet' in outcome ? `/intake?sheet=${outcome.sheet}` : traceAddress(outcome.number));
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
    setBusy(false);
  };
  return (
    <DialogFrame title={`Bring in ${picked.path}`} widthPx={520} onClose={onClose}>
      <IssuedFrom file={picked.file} onGo={onClose} />
      <Questions answers={answers} onChange={(changes) => setAnswers({ ...answers, ...changes })} />
      {trouble === '' ? null : <Trouble>{trouble}</Trouble>}
      <DialogButtons>
        <Button onPress={onClose}>Cancel</Button>
        <PrimaryButton isDisabled={isBusy} onPress={() => void bringIn()}>
          {isBusy ? 'Bringing in …' : 'Bring in'}
        </PrimaryButton>
      </DialogButtons>
    </DialogFrame>
  );
}

interface QuestionsProps {
  readonly answers: Answers;
  readonly onChange: (changes: Partial<Answers>) => void;
}

function Questions({ answers, onChange }: QuestionsProps): React.JSX.Element {
  const schemes = useQuery(itemSchemesQuery).data ?? [];
  const classes = useQuery(propertiesQuery).data?.classes ?? [];
  const own = classes.find(({ name }) => name === answers.itemClass);
  return (
    <Fields>
      <Pick
        label="Number"
        options={[
          { key: '', text: 'from the file, or typed below' },
          ...schemes.map(({ name, next }) => ({ key: name, text: `next of ${name}: ${next}` })),
        ]}
        value={answers.scheme}
        onChange={(scheme) => onChange({ scheme })}
      />
      {answers.scheme === '' ? (
        <Field
          label="Number (empty: from the file)"
          value={answers.number}
          onChange={(number) => onChange({ number })}
          mono
        />
      ) : null}
      <Field
        label="Name (empty: from the file)"
        value={answers.name}
        onChange={(name) => onChange({ name })}
      />
      <PlacePicker
        label="Place"
        value={answers.place}
        onChange={(to) => onChange({ place: to })}
        width="100%"
      />
      {classes.length > 0 ? (
        <Pick
          label="Class"
          options={[{ key: '', text: 'none' }, ...classes.map(({ name }) => ({ key: name, text: name }))]}
          value={answers.itemClass}
          onChange={(itemClass) => onChange({ itemClass })}
        />
      ) : null}
      {own?.properties.map(({ name, isRequired }) => (
        <Field
          key={name}
          label={isRequired ? `${name}, needed before a check` : name}
          value={answers.properties[name] ?? ''}
          onChange={(text) => onChange({ properties: { ...answers.properties, [name]: text } })}
        />
      ))}
      <Field label="Comment" value={answers.comment} onChange={(comment) => onChange({ comment })} />
      <Hint>A number of a scheme is used up only when the file comes in.</Hint>
    </Fields>
  );
}

/** @returns the item, or the sheet where somebody has to look first */
async function bringInOne(
  picked: PickedFile,
  { number, scheme, name, itemClass, properties, place, comment }: Answers,
): Promise<{ readonly number: string } | { readonly sheet: string }> {
  const id = await beginSheet([picked], { place, prefix: '' }, () => undefined);
  const review = await get(`/api/intakes/${id}`);
  const [row, another] = review.rows;
  // Several items in one file, something already known, or something in the way: that wants a look.
  if (!row || another || row.status !== 'new' || row.doubtful.length > 0) return { sheet: id };
  const given =
    scheme === ''
      ? number.trim()
      : (await send('POST', '/api/numbers/reserve', { scheme, count: 1 })).numbers[0];
  const correction = {
    ...(given ? { number: given } : {}),
    ...(name.trim() === '' ? {} : { name: name.trim() }),
  };
  const corrected =
    Object.keys(correction).length === 0
      ? review
      : await send('PATCH', `/api/intakes/${id}`, { corrections: { [row.key]: correction } });
  const [now] = corrected.rows;
  if (now?.status !== 'new') return { sheet: id };
  await carriedOut(await send('POST', `/api/intakes/${id}/carry-out`, { comment, letGo: true }));
  const set = Object.fromEntries(Object.entries(properties).filter(([, text]) => text.trim() !== ''));
  if (itemClass !== '' || Object.keys(set).length > 0)
    await send('POST', '/api/items/properties', {
      ...{ items: [now.number], set, comment: 'As brought in', checkOut: true },
      ...(itemClass === '' ? {} : { class: itemClass }),
    });
  return { number: now.number };
}

const POLL_MS = 200;

async function carriedOut(sheet: IntakeView): Promise<void> {
  let view = sheet;
  while (view.state === 'carrying out') {
    await new Promise((done) => setTimeout(done, POLL_MS));
    view = await get(`/api/intakes/${sheet.id}`);
  }
  if (view.state === 'failed') throw new Error(view.failure ?? 'The intake failed; nothing was changed.');
}

const Fields = styled.div`
  display: grid;
  gap: 10px;
  overflow: auto;
`;
