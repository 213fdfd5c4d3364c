import { Button } from '../../../ui/controls.js';
import type { Looking } from './use-looking.js';

/** What is seen of the uses. */
export function ShownButtons({ deeds, state }: Looking): React.JSX.Element {
  return (
    <>
      <Button onPress={deeds.hide} isDisabled={state.selected.size === 0}>
        Hide (H)
      </Button>
      <Button onPress={deeds.isolate} isDisabled={state.selected.size === 0}>
        Alone (I)
      </Button>
      <Button onPress={deeds.all} isDisabled={state.hidden.size === 0}>
        Show all (A)
      </Button>
    </>
  );
}
