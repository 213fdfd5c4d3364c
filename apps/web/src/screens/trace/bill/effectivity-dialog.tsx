import type { BillRow } from '@stem-trace/contract';
import styled from 'styled-components';
import { send } from '../../../api/client.js';
import { AskDialog } from '../../../ui/ask-dialog.js';
import { Hint, Mono } from '../../../ui/controls.js';

export interface EffectivityDialogProps {
  readonly row: BillRow;
  readonly onClose: () => void;
}

/** From when until when a row of an assembly counts, as planned and as it came. */
export function EffectivityDialog({ row, onClose }: EffectivityDialogProps): React.JSX.Element {
  const { number, user, userVersion, position, planned, actual } = row;
  return (
    <AskDialog
      title={`When ${number} counts in ${user}`}
      action="Save"
      says={
        <Hint>
          Days such as <Whole>from 2026-03-01</Whole> or <Whole>2026-03-01 to 2026-05-31</Whole>, or serial
          numbers of a product such as <Whole>FM-1000 from 100</Whole>; several with semicolons between. Empty
          means always. What became of it counts where it is known. It is said beside {user} {userVersion}: no
          version is made, and later ones keep it.
        </Hint>
      }
      fields={[
        { key: 'planned', label: 'Planned', value: planned },
        { key: 'actual', label: 'Actual: what became of it', value: actual },
      ]}
      onAnswer={(answers) =>
        send('PUT', '/api/effectivity', {
          item: `${user}@${userVersion}`,
          rows: [
            {
              position: position ?? 0,
              planned: answers['planned'] ?? '',
              actual: answers['actual'] ?? '',
            },
          ],
        })
      }
      onClose={onClose}
    />
  );
}

/** What is typed as it stands, in one line. */
const Whole = styled(Mono)`
  white-space: nowrap;
`;
