import { useQuery } from '@tanstack/react-query';
import styled from 'styled-components';
import { itemQuery } from '../api/queries.js';
import { hasPicture, Picture } from '../pictures/picture.js';
import { Mono, Soft } from '../ui/controls.js';

/** Two items in pictures, one beside the other. */
export function SideBySide({
  left,
  right,
}: {
  readonly left: string;
  readonly right: string;
}): React.JSX.Element {
  return (
    <Pair>
      <Side number={left} />
      <Side number={right} />
    </Pair>
  );
}

function Side({ number }: { readonly number: string }): React.JSX.Element {
  const item = useQuery(itemQuery(number)).data;
  return (
    <figure>
      {item && hasPicture(item) ? <Picture key={number} item={item} lens="newest" /> : null}
      <figcaption>
        <Mono>{number}</Mono> <Soft>{item?.name}</Soft>
      </figcaption>
    </figure>
  );
}

const Pair = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  flex: none;
  figure {
    margin: 0;
    min-width: 0;
  }
`;
