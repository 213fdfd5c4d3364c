import { useSearchParams } from 'react-router';
import { Board } from './board/board.js';
import { OneChange } from './one/one-change.js';

/** Changes: where all of them stand, or one. */
export function ChangeScreen(): React.JSX.Element {
  const [search] = useSearchParams();
  const change = search.get('change') ?? '';
  return change === '' ? <Board /> : <OneChange key={change} change={change} />;
}
