import type { SectionPlane } from '@stem-trace/core/look';
import { Download } from 'lucide-react';
import styled from 'styled-components';
import { Button, Choice, Pick, Soft } from '../../ui/controls.js';
import { download } from '../../ui/download.js';
import type { Looking } from './look-model.js';
import { dot, forward, kindOf, planeAt, planeInto, reachOf, UNITS } from './section-plane.js';
import { sectionSvg } from './section-svg.js';
import type { ViewName } from './look-stage.js';

const VIEWS: readonly { readonly key: ViewName; readonly text: string }[] = [
  { key: 'front', text: 'from the front (1)' },
  { key: 'back', text: 'from behind (2)' },
  { key: 'left', text: 'from the left (3)' },
  { key: 'right', text: 'from the right (4)' },
  { key: 'top', text: 'from above (5)' },
  { key: 'below', text: 'from below (6)' },
  { key: 'corner', text: 'from a corner (7)' },
];

const AXES = [
  { key: 'none', text: 'None' },
  { key: 'x', text: 'X' },
  { key: 'y', text: 'Y' },
  { key: 'z', text: 'Z' },
] as const;
const ALONG_FACE = { key: 'face', text: 'Face' } as const;
type Kind = (typeof AXES)[number]['key'] | 'face';

/** What is done with the picture; each has a key, which it says. */
export function LookBar(looking: Looking): React.JSX.Element {
  const { deeds, ghosts, isParallel, view, selected, hidden } = looking;
  return (
    <Line role="toolbar" aria-label="The picture">
      <Button onPress={deeds.fit}>Fit (F)</Button>
      <Button onPress={deeds.hide} isDisabled={selected.size === 0}>
        Hide (H)
      </Button>
      <Button onPress={deeds.isolate} isDisabled={selected.size === 0}>
        Alone (I)
      </Button>
      <Button onPress={deeds.all} isDisabled={hidden.size === 0}>
        Show all (A)
      </Button>
      <Button onPress={deeds.ghost} aria-pressed={ghosts}>
        {ghosts ? 'Rest solid (G)' : 'Rest as glass (G)'}
      </Button>
      <Button onPress={deeds.parallel} aria-pressed={isParallel}>
        {isParallel ? 'Perspective (P)' : 'Parallel (P)'}
      </Button>
      <Pick
        label="Look"
        options={[{ key: '', text: 'as turned' }, ...VIEWS]}
        value=""
        onChange={(name) => (name === '' ? undefined : view(name as ViewName))}
      />
      <SectionPart {...looking} />
    </Line>
  );
}

/** A plane along an axis or along the face that was clicked, moved between the ends of what is shown. */
function SectionPart({ stage, section, cut, faces }: Looking): React.JSX.Element {
  const face = faces.at(-1)?.surface;
  const kind = kindOf(section);
  const along = section ? forward(section.normal) : undefined;
  const [low, high] = along && stage ? reachOf(stage, along) : [0, 0];
  const place = section && along ? dot(section.point, along) : 0;
  const isTurned = section !== null && along !== undefined && dot(section.normal, along) < 0;
  const put = (where: number, turned: boolean): void =>
    along ? cut(planeAt(along, where, turned)) : undefined;
  const begin = (to: Kind): void => {
    if (!stage || to === 'none') return cut(null);
    if (to === 'face')
      return face?.kind === 'plane' ? cut(planeInto(face, reachOf(stage, face.normal))) : undefined;
    const axis = UNITS[to];
    const [from, end] = reachOf(stage, axis);
    // What is nearer to whoever looks is cut away.
    return cut(planeAt(axis, (from + end) / 2, !stage.looksFromAbove(axis.indexOf(1))));
  };
  const named = kind === 'face' ? 'the face' : kind;
  return (
    <>
      <Together>
        <Soft aria-hidden>Section</Soft>
        <Choice
          label="Section"
          options={face?.kind === 'plane' || kind === 'face' ? [...AXES, ALONG_FACE] : AXES}
          value={kind}
          onChange={begin}
        />
      </Together>
      {section ? (
        <>
          <input
            type="range"
            aria-label={`Place of the section along ${named}, mm`}
            min={low}
            max={high}
            step={(high - low) / 400 || 1}
            value={place}
            onChange={({ target }) => put(Number(target.value), isTurned)}
          />
          <Soft>
            {kind === 'face' ? 'at' : `${kind} =`} {place.toFixed(1)} mm
          </Soft>
          <Button onPress={() => put(place, !isTurned)}>Other side</Button>
          <Button onPress={() => saveSvg(stage, section)}>
            <Download size={14} aria-hidden /> Outline as SVG
          </Button>
          <Button onPress={() => void saveDxf(stage)}>
            <Download size={14} aria-hidden /> as DXF
          </Button>
        </>
      ) : null}
    </>
  );
}

function saveSvg(stage: Looking['stage'], section: SectionPlane): void {
  download(new Blob([sectionSvg(stage?.outlines ?? [], section)], { type: 'image/svg+xml' }), 'section.svg');
}

async function saveDxf(stage: Looking['stage']): Promise<void> {
  const { sectionDxf } = await import('./section-dxf.js');
  download(new Blob([sectionDxf(stage?.outlines ?? [])], { type: 'image/vnd.dxf' }), 'section.dxf');
}

const Line = styled.div`
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
`;
const Together = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 6px;
`;
