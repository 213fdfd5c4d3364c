import type { AskedField } from '../ui/ask-dialog.js';
import { ItemPicker } from './item-picker.js';

/** A field of a dialog that takes an item, the first of it: it has the focus. */
export function itemField(key: string, label: string): AskedField {
  return {
    ...{ key, label, value: '' },
    render: (_, onChange) => (
      <ItemPicker label={label} value="" onChoose={onChange} onType={onChange} width="100%" takesFocus />
    ),
  };
}
