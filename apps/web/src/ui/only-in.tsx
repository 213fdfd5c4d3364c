import styled from 'styled-components';
import { colour } from './theme.js';

interface OnlyInProps {
  readonly configurations: readonly string[] | undefined;
  /** Where there is little room: how many, instead of which; all are said on pointing at it. */
  readonly isBrief?: boolean;
}

/** That a link belongs to some configurations only; nothing where it belongs to all. */
export function OnlyIn({ configurations, isBrief = false }: OnlyInProps): React.JSX.Element | null {
  const text = sayOnlyIn(configurations);
  if (configurations === undefined || text === '') return null;
  const [title, brief] =
    configurations.length === 0
      ? ['No configuration holds all of these links', text]
      : [`Configurations: ${configurations.join(', ')}`, `only in ${configurations.length}`];
  return (
    <Tag title={title} aria-label={text}>
      {isBrief && configurations.length > 1 ? brief : text}
    </Tag>
  );
}

/** `only winter, storm`, `in no configuration` for none, and nothing for all. */
export function sayOnlyIn(configurations: readonly string[] | undefined): string {
  if (configurations === undefined) return '';
  return configurations.length === 0 ? 'in no configuration' : `only ${configurations.join(', ')}`;
}

/** That a use counts for some time or some pieces only; nothing where it counts always. */
export function AtTimes({
  effectivity,
}: {
  readonly effectivity: string | undefined;
}): React.JSX.Element | null {
  if (effectivity === undefined) return null;
  return (
    <Tag title={`Counts ${effectivity}`} aria-label={`counts ${effectivity}`}>
      {effectivity.replace(/^.* · actual |^planned |^actual /, '')}
    </Tag>
  );
}

const Tag = styled.span`
  padding: 0 5px;
  border: 1px dashed ${colour.lineStrong};
  border-radius: 3px;
  font-size: 11px;
  color: ${colour.inkSoft};
  display: inline-block;
  vertical-align: bottom;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
`;
