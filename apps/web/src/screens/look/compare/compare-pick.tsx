/** Chooses what a model is compared with: another version of it, its variant, or anything else. */
import { useState } from 'react';
import { useChangeSearch } from '../../../frame/addresses.js';
import { ItemPicker } from '../../../frame/item-picker.js';
import { Button, Hint } from '../../../ui/controls.js';
import { DialogButtons, DialogFrame } from '../../../ui/dialog-frame.js';

export function ComparePick({ item }: { readonly item: string }): React.JSX.Element {
  const [isAsking, ask] = useState(false);
  return (
    <>
      <Button onPress={() => ask(true)}>Compare with …</Button>
      {isAsking ? <CompareDialog item={item} onClose={() => ask(false)} /> : null}
    </>
  );
}

function CompareDialog({
  item,
  onClose,
}: {
  readonly item: string;
  readonly onClose: () => void;
}): React.JSX.Element {
  const changeSearch = useChangeSearch();
  const [other, setOther] = useState('');
  return (
    <DialogFrame title={`Compare ${item} with`} widthPx={460} onClose={onClose}>
      <Hint>Another version of it, such as {item.split('@')[0]}@A/1, a variant, or any other item.</Hint>
      <ItemPicker
        label="Item or version"
        value=""
        onChoose={setOther}
        onType={setOther}
        width="100%"
        takesFocus
      />
      <DialogButtons>
        <Button onPress={onClose}>Cancel</Button>
        <Button
          isDisabled={other === ''}
          onPress={() => {
            // From now on this is the first of two, whichever version is the newest.
            changeSearch({ item, against: other, scene: '' }, true);
            onClose();
          }}
        >
          Compare
        </Button>
      </DialogButtons>
    </DialogFrame>
  );
}
