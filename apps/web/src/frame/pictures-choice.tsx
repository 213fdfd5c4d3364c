import { Choice } from '../ui/controls.js';
import { usePreferences, useSetPreferences } from './preferences.js';

/** Whether rows of items have a small picture, and how small. */
export function PicturesChoice(): React.JSX.Element {
  const preferences = usePreferences();
  const set = useSetPreferences();
  return (
    <Choice
      label="Pictures in rows"
      options={[
        { key: 'none', text: 'None' },
        { key: 'small', text: 'Small' },
        { key: 'large', text: 'Large' },
      ]}
      value={preferences.pictures}
      onChange={(pictures) => set({ ...preferences, pictures })}
    />
  );
}
