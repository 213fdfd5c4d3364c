/** A small still picture of an item, for the rows of tables; made once and kept for a while. */
import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { useShowing } from '../ui/showing.js';
import { colour } from '../ui/theme.js';

/** As many as a long look through a table brings up. */
const KEEP_MS = 10 * 60_000;

export function Thumb({
  item,
  size,
}: {
  readonly item: string;
  /** As everywhere, where it is not said. */
  readonly size?: 'small' | 'large';
}): React.JSX.Element | null {
  const { pictures: usual } = useShowing();
  const pictures = size ?? usual;
  const thumb = useQuery({
    queryKey: ['thumb', item],
    queryFn: async ({ signal }) => (await import('./thumb-maker.js')).makeThumb(item, signal),
    staleTime: KEEP_MS,
    gcTime: KEEP_MS,
    retry: false,
    enabled: pictures !== 'none',
  });
  if (pictures === 'none') return null;
  return (
    <Box data-size={pictures} aria-hidden>
      {thumb.data ? <img src={thumb.data} alt="" /> : null}
    </Box>
  );
}

const Box = styled.span`
  flex: none;
  width: 46px;
  height: 34px;
  border-radius: 3px;
  background: ${colour.surface};
  &[data-size='large'] {
    width: 104px;
    height: 78px;
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: contain;
    display: block;
  }
`;
