import { Camera, Package } from 'lucide-react';
import { useState } from 'react';
import styled from 'styled-components';
import { useDesk } from '../../../frame/desk.js';
import { Button, Choice, Pick, Soft } from '../../../ui/controls.js';
import { download } from '../../../ui/download.js';
import { ComparePick } from '../compare/compare-pick.js';
import { BarLine } from './bar-line.js';
import { ColourPick } from './colour-pick.js';
import { MEASURED_AT, type MeasuredAt } from './measured.js';
import { ShownButtons } from './shown-buttons.js';
import { SectionPart } from './section-part.js';
import { TryPart } from './try-part.js';
import type { TriedParts } from './use-tried.js';
import type { Looking } from './use-looking.js';
import { VIEW_NAMES, VIEWS, type ViewName } from './views.js';

/** What is done with the picture; each has a key, which it says. */
export function LookBar({
  looking,
  tried,
}: {
  readonly looking: Looking;
  readonly tried: TriedParts;
}): React.JSX.Element {
  const { deeds, state, stage, isBoxing, item } = looking;
  return (
    <BarLine role="toolbar" aria-label="The picture">
      <Button onPress={deeds.fit}>Fit (F)</Button>
      <ShownButtons {...looking} />
      <Button onPress={deeds.ghost} aria-pressed={state.isGlass}>
        {state.isGlass ? 'Rest solid (G)' : 'Rest as glass (G)'}
      </Button>
      <Button onPress={deeds.parallel} aria-pressed={state.isParallel}>
        {state.isParallel ? 'Perspective (P)' : 'Parallel (P)'}
      </Button>
      <Button onPress={deeds.box} aria-pressed={isBoxing}>
        {isBoxing ? 'Turn again (B)' : 'Select by box (B)'}
      </Button>
      <SelectTray {...looking} />
      <ViewPick {...looking} />
      <ColourPick {...looking} />
      <SpreadPart {...looking} />
      <SectionPart {...looking} />
      <MeasurePick {...looking} />
      <TryPart looking={looking} tried={tried} />
      <ComparePick item={item} />
      <Button onPress={() => void save(stage, item)}>
        <Camera size={14} aria-hidden /> Save as PNG
      </Button>
    </BarLine>
  );
}

async function save(stage: Looking['stage'], item: string): Promise<void> {
  const png = await stage?.png();
  if (png) download(png, `${item.replace(/[^\w.-]+/g, '-')}.png`);
}

function ViewPick({ stage, picked }: Looking): React.JSX.Element {
  const face = picked.at(-1);
  const along = face?.kind === 'face' && face.surface?.kind === 'plane' ? face.surface.normal : undefined;
  return (
    <Pick
      label="Look"
      options={[
        { key: '', text: 'as turned' },
        ...VIEW_NAMES.map((key, at) => ({ key, text: `${VIEWS[key].says} (${at + 1})` })),
        ...(along ? [{ key: 'face', text: 'straight at this face (8)' }] : []),
      ]}
      value=""
      onChange={(name) => {
        if (name === 'face' && along) stage?.lookAlong(along, upFor(along));
        else if (name !== '') stage?.view(name as ViewName);
      }}
    />
  );
}

/** What is up where one looks along a direction: z, or y where that is the direction. */
function upFor([, , z]: readonly [number, number, number]): readonly [number, number, number] {
  return Math.abs(z) > 0.99 ? [0, 1, 0] : [0, 0, 1];
}

const AT: Readonly<Record<MeasuredAt, string>> = { faces: 'Faces', edges: 'Edges', points: 'Points' };

function MeasurePick({ measuresAt, measureAt }: Looking): React.JSX.Element {
  return (
    <Together>
      <Soft aria-hidden>Measure at</Soft>
      <Choice
        label="Measure at"
        options={MEASURED_AT.map((key) => ({ key, text: AT[key] }))}
        value={measuresAt}
        onChange={measureAt}
      />
    </Together>
  );
}

/** How far all is taken apart: a share of its distance from the middle. */
const MOST_SPREAD = 2;

function SpreadPart({ state: { spread }, change, scene }: Looking): React.JSX.Element | null {
  const [deepest] = useState(() => depthOf(scene.nodes));
  if (scene.nodes.length < 3) return null;
  return (
    <Together>
      <Soft aria-hidden>Apart</Soft>
      <input
        type="range"
        aria-label="How far it is taken apart"
        min={0}
        max={MOST_SPREAD}
        step={0.02}
        value={spread.amount}
        style={{ width: 90 }}
        onChange={({ target }) => change({ spread: { ...spread, amount: Number(target.value) } })}
      />
      {spread.amount > 0 && deepest > 1 ? (
        <Pick
          label="down to level"
          options={Array.from({ length: deepest }, (_, at) => ({
            key: String(at + 1),
            text: String(at + 1),
          }))}
          value={String(Math.min(spread.levels, deepest))}
          onChange={(levels) => change({ spread: { ...spread, levels: Number(levels) } })}
        />
      ) : null}
    </Together>
  );
}

function depthOf(nodes: Looking['scene']['nodes']): number {
  const levels: number[] = [];
  for (const { parent } of nodes) levels.push(parent < 0 ? 0 : (levels[parent] ?? 0) + 1);
  return levels.reduce((most, level) => Math.max(most, level), 0);
}

function SelectTray({ scene, select }: Looking): React.JSX.Element | null {
  const { tray } = useDesk();
  const numbers = new Set(tray.map(({ number }) => number));
  const uses = scene.nodes.flatMap(({ number }, at) => (numbers.has(number) ? at : []));
  if (uses.length === 0) return null;
  return (
    <Button onPress={() => select(uses)}>
      <Package size={14} aria-hidden /> Select what is in the tray
    </Button>
  );
}

const Together = styled.span`
  display: inline-flex;
  align-items: center;
  gap: 6px;
`;
