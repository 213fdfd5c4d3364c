/** Steps that all that is picked may take together. */
import type { OfferedStep } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { send } from '../api/client.js';
import { capital } from '../ui/capital.js';
import { Button } from '../ui/controls.js';
import { StepDialog } from './step-dialog.js';

export function TraySteps({ numbers }: { readonly numbers: readonly string[] }): React.JSX.Element {
  const [asking, ask] = useState<OfferedStep>();
  const offered = useQuery({
    queryKey: ['items', 'offered', numbers],
    queryFn: () => send('POST', '/api/steps/offered', { items: numbers }),
    enabled: numbers.length > 0,
  });
  return (
    <>
      {offered.data?.map((step) => (
        <Button key={step.name} onPress={() => ask(step)}>
          {capital(step.name)} …
        </Button>
      ))}
      {asking ? <StepDialog items={numbers} step={asking} onClose={() => ask(undefined)} /> : null}
    </>
  );
}
