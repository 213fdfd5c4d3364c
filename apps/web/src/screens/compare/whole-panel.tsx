import type { WholeDifference } from '@stem-trace/contract';
import styled from 'styled-components';
import { Soft } from '../../ui/controls.js';
import { colour } from '../../ui/theme.js';

/** In what the two things compared differ themselves, apart from their rows. */
export function WholePanel({
  differences,
}: {
  readonly differences: readonly WholeDifference[];
}): React.JSX.Element | null {
  if (differences.length === 0) return null;
  return (
    <Details>
      <summary>
        The versions themselves differ in {differences.length} {differences.length === 1 ? 'thing' : 'things'}
        : <Soft>{differences.map(({ what }) => what).join(', ')}</Soft>
      </summary>
      <dl>
        {differences.map(({ what, before, after }) => (
          <div key={what}>
            <dt>{what}</dt>
            <dd>
              {before || 'none'} → <b>{after || 'none'}</b>
            </dd>
          </div>
        ))}
      </dl>
    </Details>
  );
}

const Details = styled.details`
  flex: none;
  padding: 6px 12px;
  background: ${colour.changedSoft};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  summary {
    cursor: default;
  }
  dl {
    margin: 6px 0 2px;
    display: grid;
    gap: 3px;
    max-height: 150px;
    overflow: auto;
  }
  dl > div {
    display: grid;
    grid-template-columns: 150px 1fr;
    gap: 10px;
  }
  dt {
    color: ${colour.inkSoft};
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
  b {
    font-weight: 500;
    color: ${colour.changed};
  }
`;
