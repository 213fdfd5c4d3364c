import type { DeriveRequest, KeepPlanRequest, PlanDraft } from '@stem-trace/contract';
import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { get, send } from '../../api/client.js';
import { Box, Button, PrimaryButton, QuietButton, Soft, Trouble } from '../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../ui/dialog-frame.js';
import { AttentionMark } from '../../ui/glyphs.js';
import { Tick } from '../../ui/tick.js';
import { When } from '../../ui/when.js';
import { colour } from '../../ui/theme.js';

const plansQuery = (item: string) =>
  queryOptions({
    queryKey: ['plans', item],
    queryFn: ({ signal }) => get('/api/plans', { item }, signal),
  });

export interface PlansDialogProps {
  readonly item: string;
  /** The plan as it is now. */
  readonly request: DeriveRequest;
  readonly onOpen: (request: DeriveRequest, name: string) => void;
  readonly onClose: () => void;
}

/** Plans of an item that are kept: the one that is worked at is kept under a name, others are gone on with. */
export function PlansDialog({ item, request, onOpen, onClose }: PlansDialogProps): React.JSX.Element {
  const [name, type] = useState('');
  const [isShared, share] = useState(false);
  const { plans, keep, open, remove } = useKeptPlans(item, {
    onKept: () => type(''),
    onOpen: (opened, plan) => {
      onOpen(opened, plan.name);
      onClose();
    },
  });
  const trouble = plans.error ?? keep.error ?? open.error ?? remove.error;
  const isThere = plans.data?.some((plan) => plan.isMine && plan.name === name.trim()) ?? false;
  return (
    <DialogFrame title={`Plans of ${item}`} widthPx={560} onClose={onClose}>
      <Fields>
        <Line>
          <Box
            aria-label="Name of the plan"
            placeholder="Name of the plan as it is now"
            value={name}
            onChange={(event) => type(event.target.value)}
          />
          <Tick isSelected={isShared} onChange={share}>
            Shared
          </Tick>
          <PrimaryButton
            isDisabled={name.trim() === '' || keep.isPending}
            onPress={() => keep.mutate({ item, name: name.trim(), isShared, request })}
          >
            {isThere ? 'Replace' : 'Keep'}
          </PrimaryButton>
        </Line>
        {trouble ? <Trouble>{trouble.message}</Trouble> : null}
        {plans.data?.length === 0 ? <Soft>No plan is kept yet.</Soft> : null}
        <List aria-label="Plans that are kept">
          {plans.data?.map((plan) => (
            <Plan
              key={plan.id}
              plan={plan}
              onOpen={() => open.mutate(plan)}
              onRemove={() => remove.mutate(plan)}
            />
          ))}
        </List>
        <DialogButtons>
          <Button onPress={onClose}>Close</Button>
        </DialogButtons>
      </Fields>
    </DialogFrame>
  );
}

function useKeptPlans(
  item: string,
  {
    onKept,
    onOpen,
  }: { readonly onKept: () => void; readonly onOpen: (opened: DeriveRequest, plan: PlanDraft) => void },
) {
  const queries = useQueryClient();
  const again = (): Promise<void> => queries.invalidateQueries({ queryKey: ['plans', item] });
  const plans = useQuery(plansQuery(item));
  const keep = useMutation({
    mutationFn: (kept: KeepPlanRequest) => send('PUT', '/api/plans', kept),
    onSuccess: async () => {
      onKept();
      await again();
    },
  });
  const open = useMutation({
    mutationFn: ({ id }: PlanDraft) => get('/api/plan', { id }),
    onSuccess: onOpen,
  });
  const remove = useMutation({
    mutationFn: ({ id }: PlanDraft) => send('POST', '/api/plans/remove', { id }),
    onSuccess: again,
  });
  return { plans, keep, open, remove };
}

function Plan({
  plan,
  onOpen,
  onRemove,
}: {
  readonly plan: PlanDraft;
  readonly onOpen: () => void;
  readonly onRemove: () => void;
}): React.JSX.Element {
  const { name, by, isMine, isShared, isBehind, at, version } = plan;
  const [isAsked, ask] = useState(false);
  return (
    <li>
      <span>
        <b>{name}</b>{' '}
        <Soft>
          {isMine ? (isShared ? 'shared by you' : 'yours') : `shared by ${by}`}, for {version},{' '}
          <When at={at} />
        </Soft>{' '}
        {isBehind ? (
          <AttentionMark title="The origin, or something that it is made of, has changed since">
            behind
          </AttentionMark>
        ) : null}
      </span>
      {isAsked ? (
        <>
          <Button onPress={onRemove}>Throw {name} away</Button>
          <PrimaryButton onPress={() => ask(false)}>Keep it</PrimaryButton>
        </>
      ) : (
        <Button onPress={onOpen}>Go on with it</Button>
      )}
      {isMine && !isAsked ? (
        <QuietButton aria-label={`Take ${name} away`} onPress={() => ask(true)}>
          <Trash2 size={15} aria-hidden />
        </QuietButton>
      ) : null}
    </li>
  );
}

const Fields = styled.div`
  display: grid;
  gap: 12px;
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 10px;
  > input {
    flex: 1;
  }
`;
const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 320px;
  overflow: auto;
  li {
    display: flex;
    align-items: center;
    gap: 8px;
    padding: 6px 0;
    border-top: 1px solid ${colour.line};
  }
  li > span {
    flex: 1;
    min-width: 0;
  }
`;
