// @vitest-environment happy-dom
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, expect, it } from 'vitest';
import { show } from '../testing/show.js';
import { CompletingField } from './completing-field.js';

afterEach(cleanup);

const OFFERED = ['Mast', 'Arm'].map((text) => ({ id: text, text }));

function Fields(): React.JSX.Element {
  const [value, setValue] = useState('');
  return (
    <>
      <CompletingField
        label="Part"
        value={value}
        onChange={setValue}
        completions={OFFERED}
        onChoose={({ text }) => setValue(text)}
        render={({ text }) => text}
      />
      <button>Beside</button>
    </>
  );
}

it('stays shut after a choice, however late the list gives the focus back, until somebody returns', async () => {
  const { user } = show(<Fields />, { answers: {} });
  const field = screen.getByRole('combobox', { name: 'Part' });
  await user.click(field);
  await user.click(await screen.findByRole('option', { name: 'Arm' }));
  await waitFor(() => expect(screen.queryByRole('listbox')).toBeNull());
  expect(field).toHaveProperty('value', 'Arm');
  // As the list does when it gives back what it had in name only.
  await new Promise((resolve) => setTimeout(resolve, 300));
  fireEvent.focus(field);
  fireEvent.focusIn(field);
  await new Promise((resolve) => setTimeout(resolve, 50));
  expect(screen.queryByRole('listbox')).toBeNull();

  await user.click(screen.getByRole('button', { name: 'Beside' }));
  await user.click(field);
  expect(await screen.findByRole('listbox')).toBeDefined();
});
