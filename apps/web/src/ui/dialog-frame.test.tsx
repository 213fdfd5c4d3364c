// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { DialogFrame } from './dialog-frame.js';

afterEach(cleanup);

function open(): { readonly onClose: ReturnType<typeof vi.fn<() => void>>; readonly shade: Element } {
  const onClose = vi.fn<() => void>();
  render(
    <DialogFrame title="Rename" widthPx={300} onClose={onClose}>
      text
    </DialogFrame>,
  );
  const shade = screen.getByRole('dialog').closest('[data-dialog-shade]');
  if (!shade) throw new Error('no shade');
  return { onClose, shade };
}

function click(from: Element, to: Element): void {
  fireEvent.pointerDown(from, { button: 0 });
  fireEvent.mouseDown(from, { button: 0 });
  fireEvent.pointerUp(to, { button: 0 });
  fireEvent.mouseUp(to, { button: 0 });
  fireEvent.click(to, { button: 0 });
}

it('closes by a click on the shade around it, and by Escape', () => {
  const first = open();
  click(first.shade, first.shade);
  expect(first.onClose).toHaveBeenCalled();
  cleanup();
  const second = open();
  fireEvent.keyDown(screen.getByRole('dialog'), { key: 'Escape' });
  expect(second.onClose).toHaveBeenCalled();
});

it('stays where a click began on a list above it that closed meanwhile', () => {
  const { onClose, shade } = open();
  const list = document.body.appendChild(document.createElement('div'));
  fireEvent.pointerDown(list, { button: 0 });
  fireEvent.mouseDown(list, { button: 0 });
  list.remove();
  fireEvent.pointerUp(shade, { button: 0 });
  fireEvent.mouseUp(shade, { button: 0 });
  fireEvent.click(shade, { button: 0 });
  expect(onClose).not.toHaveBeenCalled();
});
