import { useSearchParams } from 'react-router';
import { Choosing } from './choosing.js';
import { Reviewing } from './reviewing.js';

/** Bringing files in: choose, review, carry out. */
export function IntakeScreen(): React.JSX.Element {
  const [search, setSearch] = useSearchParams();
  const sheet = search.get('sheet') ?? '';
  return sheet === '' ? (
    <Choosing onReady={(id) => setSearch({ sheet: id })} />
  ) : (
    <Reviewing id={sheet} onAgain={() => setSearch({})} />
  );
}
