import { Link } from 'react-router';
import { Box } from '../../../ui/controls.js';
import type { PartProps } from './change-form.js';
import { Part, Rows, Spread, TakeOut } from './parts.js';

/** Looks that show what is meant: scenes, mark-up, comparisons. They come with the request, from where somebody saw it. */
export function EvidenceList({ contents: { evidence }, isLocked, set }: PartProps): React.JSX.Element | null {
  if (evidence.length === 0) return null;
  return (
    <Part title="Evidence">
      <Rows>
        {evidence.map((piece, at) => (
          <li key={piece.address}>
            <Link to={piece.address}>Open</Link>
            <Spread>
              {isLocked ? (
                piece.says
              ) : (
                <Box
                  aria-label={`What piece ${at + 1} shows`}
                  value={piece.says}
                  onChange={({ target }) =>
                    set({
                      evidence: evidence.map((each) =>
                        each === piece ? { ...each, says: target.value } : each,
                      ),
                    })
                  }
                />
              )}
            </Spread>
            {isLocked ? null : (
              <TakeOut
                label={`Take piece ${at + 1} out`}
                onPress={() => set({ evidence: evidence.filter((each) => each !== piece) })}
              />
            )}
          </li>
        ))}
      </Rows>
    </Part>
  );
}
