import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { DeriveRequest } from '@stem-trace/contract';
import { useEffect, useMemo, useState } from 'react';
import { Form } from 'react-aria-components';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { Button, Choice, Field, Hint, Mono, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { CheckSheet } from './check-sheet.js';
import { ChooseTable } from './choose-table.js';
import { NameTable } from './name-table.js';
import { ProofSheet } from './proof-sheet.js';
import { EMPTY_DRAFT, requestOf, type DeriveDraft } from './draft.js';

const STEPS = [
  { key: 'choose', text: '1  Choose' },
  { key: 'name', text: '2  Name' },
  { key: 'check', text: '3  Check and carry out' },
] as const;

type Step = (typeof STEPS)[number]['key'];

/** Making a variant in three steps that can be walked back. */
export function DerivePlace(): React.JSX.Element {
  const [search, setSearch] = useSearchParams();
  const item = search.get('item') ?? '';
  const [typed, setTyped] = useState(item);
  useEffect(() => setTyped(item), [item]);
  return (
    <>
      <Form
        onSubmit={(event) => {
          event.preventDefault();
          setSearch({ item: typed.trim() });
        }}
      >
        <Row>
          <Field
            label="Origin: number, or NUMBER@B/3 for one version"
            value={typed}
            onChange={setTyped}
            mono
            width="320px"
          />
          <Button type="submit">Take as origin</Button>
        </Row>
      </Form>
      {item === '' ? (
        <Hint>
          Choose what to start from. Its files are copied or shared line by line; the copies refer to one
          another, and nothing is written until you say so.
        </Hint>
      ) : (
        <Derivation key={item} item={item} />
      )}
    </>
  );
}

function Derivation({ item }: { readonly item: string }): React.JSX.Element {
  const [step, setStep] = useState<Step>('choose');
  const [draft, setDraft] = useState<DeriveDraft>(() => ({ ...EMPTY_DRAFT, key: crypto.randomUUID() }));
  const queries = useQueryClient();
  const request = useMemo(() => requestOf(item, draft), [item, draft]);
  const preview = useQuery({
    queryKey: ['derive', request],
    queryFn: () => send('POST', '/api/derive/preview', request),
    placeholderData: keepPreviousData,
  });
  const carryOut = useMutation({
    mutationFn: (sent: DeriveRequest) => send('POST', '/api/derive', sent),
    onSuccess: () => queries.invalidateQueries(),
  });
  const change = (changes: Partial<DeriveDraft>): void => setDraft((before) => ({ ...before, ...changes }));

  if (carryOut.data) return <ProofSheet result={carryOut.data} />;
  if (preview.error) return <Trouble>{preview.error.message}</Trouble>;
  if (!preview.data) return <Soft>Working out the plan …</Soft>;
  const { lines } = preview.data;
  const copied = lines.filter((line) => line.decision === 'copy');
  const clashes = lines.filter(
    (line) => line.clash !== null && (step !== 'choose' || line.clash.of === 'decision'),
  );
  return (
    <>
      <Row>
        <Choice<Step> label="Step" options={STEPS} value={step} onChange={setStep} />
        <strong>
          {preview.data.origin.number} <Mono>{preview.data.origin.version}</Mono> {preview.data.origin.name}
        </strong>
        <Soft>
          {copied.length.toLocaleString('en-GB')} copied,{' '}
          {(lines.length - copied.length).toLocaleString('en-GB')} shared
        </Soft>
        {clashes.length > 0 ? <AttentionMark>{clashes.length} in the way</AttentionMark> : null}
      </Row>
      {step === 'choose' ? <ChooseTable preview={preview.data} draft={draft} onChange={change} /> : null}
      {step === 'name' ? <NameTable lines={copied} draft={draft} onChange={change} /> : null}
      {step === 'check' ? (
        <CheckSheet
          {...{ preview: preview.data, copied, clashes }}
          carryOut={() => carryOut.mutate(request)}
          isBusy={carryOut.isPending}
        />
      ) : null}
      {carryOut.error ? <Trouble>{carryOut.error.message}</Trouble> : null}
      {step !== 'check' ? (
        <Row>
          <PrimaryButton onPress={() => setStep(step === 'choose' ? 'name' : 'check')}>
            {step === 'choose' ? 'On to names' : 'On to the check'}
          </PrimaryButton>
        </Row>
      ) : null}
    </>
  );
}

const Row = styled.div`
  display: flex;
  align-items: end;
  gap: 12px;
  flex-wrap: wrap;
  > strong,
  > span {
    margin-bottom: 5px;
  }
`;
