/** Asking somebody else to decide about a check sheet. */
import type { SheetView } from '@stem-trace/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Forward } from 'lucide-react';
import { useState } from 'react';
import { send } from '../../api/client.js';
import { usePeople } from '../../api/people.js';
import { usePerson } from '../../frame/person.js';
import { AskDialog } from '../../ui/ask-dialog.js';
import { Button } from '../../ui/controls.js';

export function PassOn({ sheet }: { readonly sheet: SheetView }): React.JSX.Element | null {
  const me = usePerson();
  const people = usePeople();
  const queries = useQueryClient();
  const [isAsking, ask] = useState(false);
  if (sheet.undecided === 0 || !sheet.isMine) return null;
  const others = people.filter(({ key }) => key !== me.login);
  return (
    <div>
      <Button onPress={() => ask(true)}>
        <Forward size={14} aria-hidden /> Pass on …
      </Button>
      {isAsking ? (
        <AskDialog
          title={`Pass on: ${sheet.title}`}
          action="Pass on"
          says="They are asked instead of you; who sent it is told."
          fields={[
            { key: 'to', label: 'To', value: '', options: [{ key: '', text: 'choose …' }, ...others] },
            { key: 'reason', label: 'Why (visible to everyone)', value: '' },
          ]}
          onAnswer={async ({ to = '', reason = '' }) => {
            if (to === '') throw new Error('Choose who is asked instead of you.');
            await send('POST', '/api/sheets/pass', { sheet: sheet.id, to, reason });
            await queries.invalidateQueries({ queryKey: ['sheets'] });
          }}
          onClose={() => ask(false)}
        />
      ) : null}
    </div>
  );
}
