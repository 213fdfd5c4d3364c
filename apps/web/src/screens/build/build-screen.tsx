import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { buildQuery } from '../../api/build.js';
import { Hint, Trouble } from '../../ui/controls.js';
import { BillSheet } from './bill-sheet.js';
import { BillsList } from './bills-list.js';

/** Bills: all of them, or one to work on. */
export function BuildScreen(): React.JSX.Element {
  const [search] = useSearchParams();
  const bill = search.get('bill') ?? '';
  return bill === '' ? <BillsList /> : <OneBill bill={bill} />;
}

function OneBill({ bill }: { readonly bill: string }): React.JSX.Element {
  const answer = useQuery(buildQuery(bill));
  if (!answer.data)
    return answer.error ? (
      <Trouble>{answer.error.message}</Trouble>
    ) : (
      <Hint role="status">Reading the bill …</Hint>
    );
  return (
    <>
      {answer.error ? <Trouble>{answer.error.message}</Trouble> : null}
      <BillSheet key={bill} answer={answer.data} />
    </>
  );
}
