import type { SectionPlane } from '@stem-trace/core/look';
import { Download } from 'lucide-react';
import styled from 'styled-components';
import { Button, Pick, Soft } from '../../../ui/controls.js';
import { download } from '../../../ui/download.js';
import { MOST_SECTIONS } from './look-state.js';
import { dot, forward, kindOf, planeAt, planeInto, reachOf, UNITS } from './section-plane.js';
import { sectionSvg } from './section-svg.js';
import type { Looking } from './use-looking.js';

const AXES = [
  { key: 'x', text: 'across X' },
  { key: 'y', text: 'across Y' },
  { key: 'z', text: 'across Z' },
] as const;
type Kind = (typeof AXES)[number]['key'] | 'face';

/** Up to three planes, along axes or along the face that was clicked, each moved between the ends of what is shown. */
export function SectionPart(looking: Looking): React.JSX.Element {
  const { stage, state, change, picked } = looking;
  const { sections } = state;
  const last = picked.at(-1);
  const face = last?.kind === 'face' && last.surface?.kind === 'plane' ? last.surface : undefined;
  const begin = (kind: Kind): void => {
    if (!stage) return;
    const put = (plane: SectionPlane): void => change({ sections: [...sections, plane] });
    if (kind === 'face') return face && put(planeInto(face, reachOf(stage, face.normal)));
    const axis = UNITS[kind];
    const [from, end] = reachOf(stage, axis);
    // What is nearer to whoever looks is cut away.
    return put(planeAt(axis, (from + end) / 2, !stage.looksFromAbove(axis.indexOf(1))));
  };
  return (
    <>
      {sections.length < MOST_SECTIONS ? (
        <Pick
          label="Section"
          options={[
            { key: '', text: sections.length === 0 ? 'none' : 'one more …' },
            ...AXES,
            ...(face ? [{ key: 'face', text: 'along the clicked face' }] : []),
          ]}
          value=""
          onChange={(kind) => (kind === '' ? undefined : begin(kind as Kind))}
        />
      ) : null}
      {sections.map((_, at) => (
        <OneSection key={at} {...looking} at={at} />
      ))}
    </>
  );
}

function OneSection({
  at,
  stage,
  state,
  change,
}: Looking & { readonly at: number }): React.JSX.Element | null {
  const section = state.sections[at];
  if (!section || !stage) return null;
  const kind = kindOf(section);
  const along = forward(section.normal);
  const [low, high] = reachOf(stage, along);
  const place = dot(section.point, along);
  const isTurned = dot(section.normal, along) < 0;
  const replace = (plane: SectionPlane | undefined): void =>
    change({ sections: state.sections.flatMap((each, other) => (other === at ? (plane ?? []) : each)) });
  const named = kind === 'face' ? 'the face' : kind;
  return (
    <Framed role="group" aria-label={`Section across ${named}`}>
      <Soft>{kind === 'face' ? 'face' : kind.toUpperCase()}</Soft>
      <input
        type="range"
        aria-label={`Place of the section along ${named}, mm`}
        min={low}
        max={high}
        step={(high - low) / 400 || 1}
        value={place}
        style={{ width: 110 }}
        onChange={({ target }) => replace(planeAt(along, Number(target.value), isTurned))}
      />
      <Soft>
        {kind === 'face' ? 'at' : `${kind} =`} {place.toFixed(1)} mm
      </Soft>
      <Button onPress={() => replace(planeAt(along, place, !isTurned))}>Other side</Button>
      <Button onPress={() => void saveSvg(stage, at, state.sections)} aria-label="Outline as SVG">
        <Download size={14} aria-hidden /> SVG
      </Button>
      <Button onPress={() => void saveDxf(stage, at, state.sections)} aria-label="Outline as DXF">
        <Download size={14} aria-hidden /> DXF
      </Button>
      <Button onPress={() => replace(undefined)}>End</Button>
    </Framed>
  );
}

/** Of one section, without what the others cut away. */
async function clipped(stage: NonNullable<Looking['stage']>, at: number, sections: readonly SectionPlane[]) {
  const plane = sections[at];
  if (!plane) return [];
  const outlines = await stage.outlinesAt(plane);
  const others = sections.filter((_, other) => other !== at);
  if (others.length === 0) return outlines;
  const { clipOutlines } = await import('@stem-trace/core/look/clip');
  return clipOutlines(outlines, plane, others);
}

async function saveSvg(...[stage, at, sections]: Parameters<typeof clipped>): Promise<void> {
  const plane = sections[at];
  if (!plane) return;
  const text = sectionSvg(await clipped(stage, at, sections), plane);
  download(new Blob([text], { type: 'image/svg+xml' }), 'section.svg');
}

async function saveDxf(...[stage, at, sections]: Parameters<typeof clipped>): Promise<void> {
  const { sectionDxf } = await import('./section-dxf.js');
  const text = sectionDxf(await clipped(stage, at, sections));
  download(new Blob([text], { type: 'image/vnd.dxf' }), 'section.dxf');
}

const Framed = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 6px;
`;
