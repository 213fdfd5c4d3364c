import type { SectionPlane } from '@stem-trace/core/look';
import { Download } from 'lucide-react';
import styled from 'styled-components';
import { Button, Choice, Pick, Soft } from '../../ui/controls.js';
import { download } from '../../ui/download.js';
import type { Looking } from './look-model.js';
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
type Axis = (typeof AXES)[number]['key'];
const ORDER = ['x', 'y', 'z'] as const;

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

/** A plane along an axis, moved between the ends of what is shown. */
function SectionPart({ stage, section, cut }: Looking): React.JSX.Element {
  const axis = axisOf(section);
  const at = ORDER.findIndex((each) => each === axis);
  const box = stage?.boxOf();
  const [low, high] = [
    box?.min.getComponent(Math.max(at, 0)) ?? 0,
    box?.max.getComponent(Math.max(at, 0)) ?? 0,
  ];
  const place = section?.point[at] ?? 0;
  const isTurned = (section?.normal[at] ?? 1) < 0;
  const put = (to: Axis, where: number, turned: boolean): void =>
    cut(to === 'none' ? null : planeOf(to, where, turned));
  const begin = (to: Axis): void => {
    const index = ORDER.findIndex((each) => each === to);
    if (!box || index < 0) put('none', 0, false);
    // What is nearer to whoever looks is cut away.
    else
      put(to, (box.min.getComponent(index) + box.max.getComponent(index)) / 2, !stage?.looksFromAbove(index));
  };
  return (
    <>
      <Together>
        <Soft aria-hidden>Section</Soft>
        <Choice label="Section" options={AXES} value={axis} onChange={begin} />
      </Together>
      {section ? (
        <>
          <input
            type="range"
            aria-label={`Place of the section along ${axis}, mm`}
            min={low}
            max={high}
            step={(high - low) / 400 || 1}
            value={place}
            onChange={({ target }) => put(axis, Number(target.value), isTurned)}
          />
          <Soft>
            {axis} = {place.toFixed(1)} mm
          </Soft>
          <Button onPress={() => put(axis, place, !isTurned)}>Other side</Button>
          <Button onPress={() => save(stage, section)}>
            <Download size={14} aria-hidden /> Outline as SVG
          </Button>
        </>
      ) : null}
    </>
  );
}

function save(stage: Looking['stage'], section: SectionPlane): void {
  download(new Blob([sectionSvg(stage?.outlines ?? [], section)], { type: 'image/svg+xml' }), 'section.svg');
}

function axisOf(section: SectionPlane | null): Axis {
  return (section && ORDER.find((_, at) => Math.abs(section.normal[at] ?? 0) > 0.5)) ?? 'none';
}

function planeOf(axis: Exclude<Axis, 'none'>, at: number, isTurned: boolean): SectionPlane {
  const along = (value: number): [number, number, number] => [
    axis === 'x' ? value : 0,
    axis === 'y' ? value : 0,
    axis === 'z' ? value : 0,
  ];
  return { point: along(at), normal: along(isTurned ? -1 : 1) };
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
