import type { VersionRow } from '@stem-trace/contract';
import { Flag } from 'lucide-react';
import styled from 'styled-components';
import { StateGlyph } from '../../ui/glyphs.js';
import { colour, font } from '../../ui/theme.js';

/** A release of a bill, as far as the line shows it. */
export interface Released {
  readonly isSuperseded: boolean;
  readonly says: string;
}

export interface RevisionLineProps {
  /** Newest first. */
  readonly versions: readonly VersionRow[];
  readonly chosen: number;
  readonly onChoose: (index: number) => void;
  /** By version; of bills alone. */
  readonly releases?: ReadonlyMap<string, Released>;
}

/** Revisions from left to right, each with its versions as beads on one line. */
export function RevisionLine({
  versions,
  chosen,
  onChoose,
  releases = NO_RELEASES,
}: RevisionLineProps): React.JSX.Element {
  const revisions: {
    code: string;
    state: VersionRow['state'];
    beads: { index: number; seq: string; comment: string }[];
  }[] = [];
  for (let index = versions.length - 1; index >= 0; index--) {
    const version = versions[index];
    const [code = '', seq = ''] = version?.version.split('/') ?? [];
    if (!version) continue;
    const last = revisions.at(-1);
    const bead = { index, seq, comment: version.comment };
    if (last?.code === code) last.beads.push(bead);
    else revisions.push({ code, state: version.state, beads: [bead] });
  }
  return (
    <Strip aria-label="Revisions">
      {revisions.map(({ code, state, beads }) => (
        <Revision key={code}>
          <header>
            <StateGlyph state={state} /> {code} <small>{state}</small>
          </header>
          <Beads>
            {beads.map(({ index, seq, comment }) => {
              const release = releases.get(`${code}/${seq}`);
              return (
                <button
                  key={index}
                  type="button"
                  title={release ? `${release.says} ${comment}` : comment}
                  aria-pressed={index === chosen}
                  aria-label={`${code}/${seq}${release ? `, ${release.says}` : ''}`}
                  onClick={() => onChoose(index)}
                >
                  {seq}
                  {release ? <Flag size={release.isSuperseded ? 9 : 14} aria-hidden /> : null}
                </button>
              );
            })}
          </Beads>
        </Revision>
      ))}
    </Strip>
  );
}

const NO_RELEASES: ReadonlyMap<string, Released> = new Map();

const Strip = styled.section`
  display: flex;
  overflow-x: auto;
  padding: 10px 14px;
  background: ${colour.raised};
  border: 1px solid ${colour.line};
  border-radius: 4px;
  flex: none;
`;
const Revision = styled.div`
  flex: none;
  min-width: 120px;
  header {
    display: flex;
    align-items: center;
    gap: 6px;
    font: 500 14px ${font.mono};
  }
  small {
    font-family: ${font.text};
    color: ${colour.inkSoft};
  }
`;
const Beads = styled.div`
  display: flex;
  gap: 18px;
  padding: 8px 18px 0 4px;
  background: linear-gradient(${colour.lineStrong}, ${colour.lineStrong}) 0 22px / 100% 2px no-repeat;
  button {
    width: 28px;
    height: 28px;
    border-radius: 50%;
    border: 2px solid ${colour.petrol};
    background: ${colour.raised};
    color: ${colour.ink};
    font: 500 12px ${font.mono};
    cursor: default;
    position: relative;
  }
  svg {
    position: absolute;
    left: 20px;
    top: -9px;
    fill: ${colour.petrol};
    color: ${colour.petrol};
  }
  button[aria-pressed='true'] {
    background: ${colour.petrol};
    color: ${colour.onPetrol};
  }
`;
