/** What may be done about a change as a whole: steps of its lifecycle, an order for a request, joining it with another. */
import type { ChangeView, OfferedStep } from '@stem-trace/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Merge, Stamp, Wrench } from 'lucide-react';
import { useState } from 'react';
import { send } from '../../../api/client.js';
import { itemQuery } from '../../../api/queries.js';
import { itemField } from '../../../frame/item-field.js';
import { usePerson } from '../../../frame/person.js';
import { StepDialog } from '../../../frame/step-dialog.js';
import { AskDialog } from '../../../ui/ask-dialog.js';
import { capital } from '../../../ui/capital.js';
import { Button, PrimaryButton } from '../../../ui/controls.js';
import { useStates } from '../../../ui/states.js';
import { NewOrderDialog } from '../new-order-dialog.js';

type Asking = OfferedStep | 'order' | 'join' | undefined;

export function ChangeActs({ view }: { readonly view: ChangeView }): React.JSX.Element | null {
  const [asking, ask] = useState<Asking>();
  const person = usePerson();
  const steps = useQuery(itemQuery(view.number)).data?.steps ?? [];
  const book = useStates();
  const outOfUse = steps.filter(({ to }) => book.get(to)?.lane === 'out of use');
  const isFree =
    view.kind === 'request' && view.lane === 'open' && !view.others.some(({ kind }) => kind === 'order');
  const onClose = (): void => ask(undefined);
  if (!view.isNewest || person.role === 'viewer') return null;
  return (
    <>
      {isFree ? (
        <PrimaryButton onPress={() => ask('order')}>
          <Wrench size={14} aria-hidden /> Make a change order …
        </PrimaryButton>
      ) : null}
      {steps.map((step) => (
        <Button key={step.name} onPress={() => ask(step)}>
          <Stamp size={14} aria-hidden /> {capital(step.name)} …
        </Button>
      ))}
      {isFree && outOfUse.length > 0 ? (
        <Button onPress={() => ask('join')}>
          <Merge size={14} aria-hidden /> Join with another …
        </Button>
      ) : null}
      {asking === 'order' ? (
        <NewOrderDialog
          requests={[view.number]}
          affects={view.lines.flatMap(({ relation, number }) => (relation === 'shows in' ? number : []))}
          name={view.name}
          why={view.contents.why}
          onClose={onClose}
        />
      ) : null}
      {asking === 'join' ? <JoinDialog number={view.number} steps={outOfUse} onClose={onClose} /> : null}
      {typeof asking === 'object' ? (
        <StepDialog items={[view.number]} step={asking} onClose={onClose} />
      ) : null}
    </>
  );
}

function JoinDialog({
  number,
  steps,
  onClose,
}: {
  readonly number: string;
  readonly steps: readonly OfferedStep[];
  readonly onClose: () => void;
}): React.JSX.Element {
  const queries = useQueryClient();
  return (
    <AskDialog
      title={`Join ${number} with another request`}
      action="Join"
      says="The other request gets the items and the evidence that this one names."
      fields={[
        itemField('into', 'Number of the other request'),
        {
          key: 'step',
          label: `What becomes of ${number}`,
          value: (steps.find(({ name }) => name === 'join') ?? steps[0])?.name ?? '',
          options: steps.map(({ name, to }) => ({ key: name, text: `${name} (${to})` })),
        },
        { key: 'reason', label: 'Reason (visible to everyone)', value: '' },
      ]}
      onAnswer={async ({ into = '', step = '', reason = '' }) => {
        await send('POST', '/api/change/join', { change: number, into, step, reason });
        await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'session' });
      }}
      onClose={onClose}
    />
  );
}
