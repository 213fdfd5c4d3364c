import type { ColouredBy } from '@stem-trace/contract';
import { Pick } from '../../../ui/controls.js';
import type { Looking } from './use-looking.js';

const COLOURS: Readonly<Record<ColouredBy, string>> = {
  file: 'as in their files',
  state: 'state',
  behind: 'what is behind',
  holder: 'who holds it',
  class: 'class',
  mass: 'mass',
  age: 'when it changed',
  lineage: 'lineage: copied, shared, own',
};

/** What the colours of the picture tell. */
export function ColourPick({ state, change }: Looking): React.JSX.Element {
  return (
    <Pick
      label="Colours"
      options={Object.entries(COLOURS).map(([key, text]) => ({ key, text }))}
      value={state.colouredBy}
      onChange={(by) => change({ colouredBy: by as ColouredBy })}
    />
  );
}
