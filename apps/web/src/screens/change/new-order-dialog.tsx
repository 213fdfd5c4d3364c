import type { ChangeLineInput } from '@stem-trace/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { firstContents, lineOf } from '../../api/changes.js';
import { send } from '../../api/client.js';
import { changeAddress } from '../../frame/addresses.js';
import { whyField } from '../../frame/request-dialog.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Mono, Soft } from '../../ui/controls.js';

export interface NewOrderDialogProps {
  /** Numbers of requests that it answers. */
  readonly requests: readonly string[];
  /** What has to change, as far as it is known. */
  readonly affects?: readonly string[];
  readonly name?: string;
  readonly why?: string;
  readonly onClose: () => void;
}

/** A change order; requests that it answers are taken on with it. */
export function NewOrderDialog({
  requests,
  affects = [],
  name: called = '',
  why = '',
  onClose,
}: NewOrderDialogProps): React.JSX.Element {
  const navigate = useNavigate();
  const queries = useQueryClient();
  return (
    <AskDialog
      title={requests.length > 0 ? `Take on ${requests.join(', ')}` : 'New change order'}
      action="Make the order"
      says={
        <Soft>
          {requests.length > 0 ? (
            <>
              A change order takes <Mono>{requests.join(', ')}</Mono> on.{' '}
            </>
          ) : null}
          {affects.length > 0
            ? `It affects ${affects.length} ${affects.length === 1 ? 'item' : 'items'}. `
            : ''}
          Everything that is checked out for it is checked and released together.
        </Soft>
      }
      fields={[{ key: 'name', label: 'In a few words', value: called }, whyField(why)]}
      onAnswer={async ({ name = '', why: said = '' }) => {
        const lines: ChangeLineInput[] = [
          ...requests.map((number) => lineOf('answers', number)),
          ...affects.map((number) => lineOf('affects', number)),
        ];
        const made = await send('POST', '/api/changes', {
          ...{ kind: 'order', number: '', name, place: '' },
          contents: firstContents(said, lines),
        });
        await queries.invalidateQueries({ queryKey: ['changes'] });
        void navigate(changeAddress(made.number));
      }}
      onClose={onClose}
    />
  );
}
