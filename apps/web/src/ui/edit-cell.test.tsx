// @vitest-environment happy-dom
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { EditCell } from './edit-cell.js';

afterEach(cleanup);

describe('a text that is changed in place', () => {
  it('is kept by Enter, without blanks around it', async () => {
    const onCommit = vi.fn();
    render(<EditCell label="Number" value="FM-1" onCommit={onCommit} />);
    const user = userEvent.setup();
    await user.type(screen.getByRole('textbox', { name: 'Number' }), '0 {Enter}');
    expect(onCommit).toHaveBeenCalledWith('FM-10');
  });

  it('is kept on leaving, and not where nothing changed', async () => {
    const onCommit = vi.fn();
    render(<EditCell label="Number" value="FM-1" onCommit={onCommit} />);
    const user = userEvent.setup();
    await user.click(screen.getByRole('textbox'));
    await user.tab();
    expect(onCommit).not.toHaveBeenCalled();
    await user.type(screen.getByRole('textbox'), '2');
    await user.tab();
    expect(onCommit).toHaveBeenCalledExactlyOnceWith('FM-12');
  });

  it('is taken back by Escape', async () => {
    const onCommit = vi.fn();
    render(<EditCell label="Number" value="FM-1" onCommit={onCommit} />);
    const user = userEvent.setup();
    await user.type(screen.getByRole('textbox'), '99{Escape}');
    await user.tab();
    expect((screen.getByRole('textbox') as HTMLInputElement).value).toBe('FM-1');
    expect(onCommit).not.toHaveBeenCalled();
  });

  it('follows a value that changes elsewhere', () => {
    const { rerender } = render(<EditCell label="Number" value="FM-1" onCommit={vi.fn()} />);
    rerender(<EditCell label="Number" value="FM-2" onCommit={vi.fn()} />);
    expect((screen.getByRole('textbox') as HTMLInputElement).value).toBe('FM-2');
  });
});
