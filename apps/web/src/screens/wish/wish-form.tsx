import type { DerivePreview, RecipeView, WishPlan } from '@stem-trace/contract';
import type { WishDefinition } from '@stem-trace/core/recipes';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import styled from 'styled-components';
import { send } from '../../api/client.js';
import { wishPlanQuery } from '../../api/wish.js';
import { deriveAddress, traceAddress } from '../../frame/addresses.js';
import { usePerson } from '../../frame/person.js';
import { Button, Field, Mono, Pick, PrimaryButton, Soft, Trouble } from '../../ui/controls.js';
import { keep } from '../../ui/kept.js';
import { colour } from '../../ui/theme.js';
import { draftFrom } from '../derive/draft.js';
import { PasteSheetsDialog } from './paste-sheets-dialog.js';

export interface WishFormProps {
  readonly recipe: RecipeView;
  readonly onOrdered: () => void;
}

/** A form made from the recipe, and beside it what the wishes lead to while they are entered. */
export function WishForm({ recipe: { number, recipe }, onOrdered }: WishFormProps): React.JSX.Element {
  const [wishes, wish] = useState<Readonly<Record<string, string>>>({});
  const [askedFor, askFor] = useState('');
  const [isPasting, paste] = useState(false);
  const asked = useDeferredValue(wishes);
  const plan = useQuery(wishPlanQuery(number, asked));
  const queries = useQueryClient();
  const order = useMutation({
    mutationFn: (sheets: readonly { readonly for: string; readonly wishes: object }[]) =>
      send('POST', '/api/wishes', { recipe: number, sheets }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['jobs'] });
      onOrdered();
    },
  });
  if (recipe.wishes.length === 0)
    return <Soft>The recipe understands no wishes yet. Add some under Recipe.</Soft>;
  const isReady =
    plan.data?.problems.length === 0 && plan.data.preview?.ready === true && !plan.isPlaceholderData;
  return (
    <Sides>
      <Form
        onSubmit={(event) => {
          event.preventDefault();
          if (isReady) order.mutate([{ for: askedFor, wishes }]);
        }}
      >
        <Field label="Asked for by" value={askedFor} onChange={askFor} placeholder="a customer, an order" />
        {recipe.wishes.map((definition) => (
          <WishField
            key={definition.name}
            definition={definition}
            value={wishes[definition.name] ?? definition.otherwise}
            onChange={(value) => wish({ ...wishes, [definition.name]: value })}
          />
        ))}
        <Row>
          <PrimaryButton type="submit" isDisabled={!isReady || order.isPending}>
            {order.isPending ? 'Asking …' : 'Make the variant'}
          </PrimaryButton>
          <Button onPress={() => paste(true)}>Many sheets …</Button>
        </Row>
        {order.error ? <Trouble>{order.error.message}</Trouble> : null}
      </Form>
      <Outcome plan={plan.data} error={plan.error} />
      {isPasting ? (
        <PasteSheetsDialog
          recipe={number}
          wishes={recipe.wishes}
          onSheets={(sheets) => order.mutate(sheets)}
          onClose={() => paste(false)}
        />
      ) : null}
    </Sides>
  );
}

interface WishFieldProps {
  readonly definition: WishDefinition;
  readonly value: string;
  readonly onChange: (value: string) => void;
}

function WishField({ definition, value, onChange }: WishFieldProps): React.JSX.Element {
  const { name, label, kind, unit, least, most, choices, otherwise } = definition;
  const called = label || name;
  if (kind === 'text') return <Field label={called} value={value} onChange={onChange} />;
  if (kind === 'number') {
    const range = least === null && most === null ? '' : `, ${least ?? '…'} to ${most ?? '…'}`;
    return (
      <Field
        label={`${called}${unit === '' ? '' : ` in ${unit}`}${range}`}
        value={value}
        onChange={onChange}
      />
    );
  }
  const options = kind === 'yes/no' ? ['yes', 'no'] : choices;
  return (
    <Pick
      label={called}
      value={value}
      options={[
        ...(otherwise === '' ? [{ key: '', text: 'choose …' }] : []),
        ...options.map((key) => ({ key, text: key })),
      ]}
      onChange={onChange}
    />
  );
}

function Outcome({
  plan,
  error,
}: {
  readonly plan: WishPlan | undefined;
  readonly error: Error | null;
}): React.JSX.Element {
  const { login } = usePerson();
  const navigate = useNavigate();
  if (error) return <Trouble>{error.message}</Trouble>;
  if (!plan) return <Soft role="status">Working out what comes of it …</Soft>;
  const { problems, said, fulfilledBy, request, preview } = plan;
  return (
    <Told aria-live="polite">
      <h2>What comes of it</h2>
      {problems.map(({ where, name, says }) => (
        <Trouble key={`${where} ${name} ${says}`}>
          {where === 'rule' ? `Rule “${name}”` : name}: {says}.
        </Trouble>
      ))}
      {fulfilledBy === null ? null : (
        <p>
          <Link to={traceAddress(fulfilledBy)}>
            <Mono>{fulfilledBy}</Mono>
          </Link>{' '}
          fulfils these wishes already; nothing would be made anew.
        </p>
      )}
      <Rules>
        <tbody>
          {said.map(({ rule, says }) => (
            <tr key={`${rule} ${says}`}>
              <th scope="row">{rule}</th>
              <td>{says}</td>
            </tr>
          ))}
        </tbody>
      </Rules>
      {said.length === 0 && problems.length === 0 ? <Soft>No rule holds: a plain copy.</Soft> : null}
      {preview ? <Planned preview={preview} /> : null}
      {request ? (
        <Button
          onPress={() => {
            keep(`derive.${login}.${request.item}`, draftFrom(request));
            void navigate(deriveAddress(request.item));
          }}
        >
          Look at the plan in Derive
        </Button>
      ) : null}
    </Told>
  );
}

/** What would be copied, and what stands in the way. */
function Planned({
  preview: { lines, place, hindrances },
}: {
  readonly preview: DerivePreview;
}): React.JSX.Element {
  const copied = lines.filter(({ decision }) => decision === 'copy');
  return (
    <>
      <p>
        {copied.length} items copied, into <Mono>{place}</Mono>.
      </p>
      {hindrances.map(({ says, help, stops }) => {
        const Said = stops ? Trouble : Soft;
        return (
          <Said key={says}>
            {says}. {help}
          </Said>
        );
      })}
    </>
  );
}

const Sides = styled.div`
  display: grid;
  grid-template-columns: minmax(260px, 380px) minmax(0, 1fr);
  gap: 24px;
  align-items: start;
  overflow: auto;
`;
const Form = styled.form`
  display: grid;
  gap: 12px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  padding: 16px;
`;
const Row = styled.div`
  display: flex;
  gap: 8px;
`;
const Told = styled.section`
  display: grid;
  gap: 10px;
  justify-items: start;
  h2,
  p {
    margin: 0;
  }
`;
const Rules = styled.table`
  border-collapse: collapse;
  th,
  td {
    text-align: left;
    padding: 5px 16px 5px 0;
    border-bottom: 1px solid ${colour.line};
    font-weight: 400;
    vertical-align: top;
  }
  th {
    font-weight: 600;
  }
`;
