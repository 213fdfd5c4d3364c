import { Component, type ReactNode } from 'react';
import { Button, Trouble } from './controls.js';

interface State {
  readonly error?: Error | undefined;
}

/** Keeps the frame standing where a screen fails, and says so. A new key clears it. */
export class ErrorBoundary extends Component<{ readonly children: ReactNode }, State> {
  override state: State = {};

  static getDerivedStateFromError(error: Error): State {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <>
        <Trouble>
          This screen cannot be shown: {error.message}. Nothing in the store was changed. Show it again, or go
          to another place; tell the administrator if this keeps happening.
        </Trouble>
        <div>
          <Button onPress={() => this.setState({ error: undefined })}>Show it again</Button>
        </div>
      </>
    );
  }
}
