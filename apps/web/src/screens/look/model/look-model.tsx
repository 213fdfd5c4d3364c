/** An assembly or a part in three dimensions to work in: its tree beside the picture, what is shown, sections, what is measured. */
import type { LensText, SceneAnswer } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { useSearchParams } from 'react-router';
import styled from 'styled-components';
import { useDesk } from '../../../frame/desk.js';
import { useKeyHints, type KeyHint } from '../../../frame/keys.js';
import { useScreenCommands } from '../../../frame/screen-commands.js';
import { canDrawSolids } from '../../../pictures/can-draw-solids.js';
import { Choice, Soft, Trouble } from '../../../ui/controls.js';
import { useShowing } from '../../../ui/showing.js';
import { colour } from '../../../ui/theme.js';
import { sceneQuery } from '../scene-queries.js';
import { BoxSelect } from './box-select.js';
import { figuresOf, sayFigures } from './figures.js';
import { Legend } from './legend.js';
import { LookBar } from './look-bar.js';
import type { LookMesh } from './look-mesh.js';
import { LookNear } from './look-near.js';
import { MarksOver, MarksPanel } from './model-marks.js';
import { useModelMarks, type ModelMarks } from './use-model-marks.js';
import { StillBar, StillPicture } from './look-still.js';
import { LookTree } from './look-tree.js';
import { keepMeasured, MeasuresPanel } from './measures-panel.js';
import { measured, sayMeasured } from './measured.js';
import { OverModel } from './over-model.js';
import { ScenesPanel, useKeptScene } from './scenes-panel.js';
import { useLooking, type Looking } from './use-looking.js';
import { useMeshes } from './use-meshes.js';
import { useTried, type TriedParts } from './use-tried.js';
import { VIEW_NAMES, VIEWS, type ViewName } from './views.js';
import { PictureGround } from './bar-line.js';

export interface LookModelProps {
  /** `NUMBER@B/3` */
  readonly item: string;
  readonly lens: LensText;
}

export default function LookModel({ item, lens }: LookModelProps): React.JSX.Element {
  const scene = useQuery(sceneQuery(item, lens));
  if (scene.error) return <Trouble>{scene.error.message}</Trouble>;
  if (!scene.data) return <Soft role="status">Looking what it is made of …</Soft>;
  if (scene.data.meshes.length === 0) return <Soft>There is no geometry in it.</Soft>;
  return <Gathering {...{ item, lens }} base={scene.data} />;
}

/** The picture is there at once, with boxes for what is still fetched. */
function Gathering({ item, lens, base }: LookModelProps & { readonly base: SceneAnswer }): React.JSX.Element {
  const tried = useTried(base, lens);
  const { loaded, done } = useMeshes(tried.scene.meshes);
  const waitsFor = tried.scene.meshes.length - done;
  if (waitsFor === 0 && loaded.every((mesh) => !mesh)) return <Soft>There is no geometry in it.</Soft>;
  return <Working {...{ item, lens, tried, loaded, waitsFor }} uses={base.nodes.length} />;
}

interface WorkingProps extends LookModelProps {
  readonly loaded: readonly (LookMesh | undefined)[];
  /** Meshes that are not there yet. */
  readonly waitsFor: number;
  readonly tried: TriedParts;
  /** Uses of the item itself; what is tried comes after them. */
  readonly uses: number;
}

function Working({ item, lens, loaded, waitsFor, tried, uses }: WorkingProps): React.JSX.Element {
  const { scene, replaced } = tried;
  const looking = useLooking({ item, lens, scene, loaded, replaced, isWhole: waitsFor === 0 });
  const marks = useModelMarks(item, looking);
  const trouble = useKeptScene(looking);
  useKeyHints(KEYS);
  useScreenCommands(useCommands(looking));
  const missing = usePointing(looking);
  useTriedSelected(looking, uses);
  const { state, select, toggle } = looking;
  return (
    <Parts onKeyDown={(event) => keyed(event, looking, marks)}>
      {canDrawSolids() ? <LookBar looking={looking} tried={tried} /> : <StillBar looking={looking} />}
      {[trouble, missing].map((says) => (says === '' ? null : <Trouble key={says}>{says}</Trouble>))}
      <Left>
        <LookTree
          nodes={scene.nodes}
          selected={state.selected}
          hidden={state.hidden}
          {...{ select, toggle }}
        />
        <Beside looking={looking} marks={marks} />
      </Left>
      <Middle>
        {canDrawSolids() ? (
          <PictureBox {...{ looking, marks, waitsFor }} />
        ) : (
          <StillPicture {...{ looking, waitsFor }} />
        )}
        <Figures {...looking} />
        <LookNear
          {...{ item, lens, uses }}
          selected={state.selected}
          classes={classesOf(looking)}
          onShow={looking.showNear}
        />
      </Middle>
    </Parts>
  );
}

function classesOf({ traits }: Looking): readonly string[] {
  return [...new Set(traits?.rows.flatMap((row) => (row.class === '' ? [] : row.class)))].sort();
}

const MOST_WEIGHED = 400_000;
const NOTHING: ReadonlySet<number> = new Set();

function trianglesOf(loaded: Looking['loaded']): number {
  return loaded.reduce((sum, mesh) => sum + (mesh?.shape.indices.length ?? 0) / 3, 0);
}

function PictureBox({
  looking,
  marks,
  waitsFor,
}: {
  readonly looking: Looking;
  readonly marks: ModelMarks;
  readonly waitsFor: number;
}): React.JSX.Element {
  const { stage, box, item, isBoxing, select, state, unit } = looking;
  const pointer = usePicking(looking);
  return (
    <StageBox>
      <Stage
        ref={box}
        role="img"
        aria-label={`${item} in three dimensions`}
        aria-busy={waitsFor > 0}
        tabIndex={0}
        onPointerDown={pointer.begin}
        onClick={pointer.click}
      >
        {state.spread.amount > 0 || !stage ? null : <MarksOver {...{ marks, stage, unit }} />}
        <OverModel {...looking} />
        {isBoxing && stage ? (
          <BoxSelect
            stage={stage}
            onSelect={(nodes, adds) => select(adds ? [...state.selected, ...nodes] : nodes)}
          />
        ) : null}
      </Stage>
      <Coming role="status">
        {waitsFor === 0
          ? ''
          : `Making the picture: ${looking.loaded.length - waitsFor} of ${looking.loaded.length} parts`}
      </Coming>
      <Legend {...looking} />
    </StageBox>
  );
}

function Figures({ picked, inside, scene, loaded, traits, state, isWhole }: Looking): React.JSX.Element {
  const showing = useShowing();
  const all = useMemo(() => new Set(scene.nodes.keys()), [scene]);
  // Of a whole product with millions of triangles nobody waits for that.
  const isSmall = useMemo(() => trianglesOf(loaded) <= MOST_WEIGHED, [loaded]);
  const of = inside.size > 0 ? inside : isSmall ? all : NOTHING;
  const figures = useMemo(
    () => (traits && isWhole ? figuresOf(of, { scene, loaded, traits }) : undefined),
    [of, scene, loaded, traits, isWhole],
  );
  const said = [sayMeasured(picked, showing.length), figures ? sayFigures(figures, showing) : '', state.note];
  return (
    <Said role="status" aria-label="Measured">
      {said.filter((part) => part !== '').join(' · ')}
    </Said>
  );
}

const BESIDE = [
  { key: 'written', text: 'Written' },
  { key: 'measured', text: 'Measured' },
  { key: 'scenes', text: 'Scenes' },
] as const;
type BesideKey = (typeof BESIDE)[number]['key'];

function Beside({
  looking,
  marks,
}: {
  readonly looking: Looking;
  readonly marks: ModelMarks;
}): React.JSX.Element {
  const [shown, show] = useState<BesideKey>('written');
  return (
    <Panel>
      <Choice<BesideKey> label="Beside the picture" options={BESIDE} value={shown} onChange={show} />
      {shown === 'written' ? <MarksPanel marks={marks} stage={looking.stage} /> : null}
      {shown === 'measured' ? <MeasuresPanel {...looking} /> : null}
      {shown === 'scenes' ? <ScenesPanel looking={looking} /> : null}
    </Panel>
  );
}

const KEYS: readonly KeyHint[] = [
  { key: 'F', says: 'Fit what is selected, or all' },
  { key: 'H', says: 'Hide what is selected, or show it again' },
  { key: 'I', says: 'Leave only what is selected' },
  { key: 'A', says: 'Show all' },
  { key: 'G', says: 'The rest as glass' },
  { key: 'P', says: 'Parallel or in perspective' },
  { key: 'B', says: 'Select by a box; with Shift more' },
  { key: 'K', says: 'Keep what is measured' },
  { key: 'N', says: 'Pin a note to the face that was clicked' },
  { key: 'D', says: 'Draw an arrow; beside the picture are a pen, a box and more' },
  { key: '1 … 7', says: 'From the front, behind, left, right, above, below, a corner' },
  { key: 'Shift Enter', says: 'Select one more; Shift and a click measures to a second' },
];

function keyed(event: KeyboardEvent, looking: Looking, marks: ModelMarks): void {
  if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event)) return;
  const { deeds } = looking;
  const view = VIEW_NAMES[Number(event.key) - 1];
  const keys: Readonly<Record<string, (() => void) | undefined>> = {
    ...{ f: deeds.fit, h: deeds.hide, i: deeds.isolate, a: deeds.all, g: deeds.ghost, p: deeds.parallel },
    ...{ b: deeds.box, k: () => keepMeasured(looking) },
    ...(marks.closed === '' ? { n: () => marks.begin('pin'), d: () => marks.begin('arrow') } : {}),
    ...(marks.kind ? { Escape: marks.cancel } : {}),
  };
  const deed = keys[event.key] ?? (view && (() => turned(looking, view)));
  if (!deed) return;
  event.preventDefault();
  event.stopPropagation();
  deed();
}

/** Turned at once, or drawn anew where nothing can be turned. */
function turned({ stage, setView }: Pick<Looking, 'stage' | 'setView'>, view: ViewName): void {
  setView(view);
  stage?.view(view);
}

function isTyping({ target }: KeyboardEvent): boolean {
  if (target instanceof HTMLSelectElement || target instanceof HTMLTextAreaElement) return true;
  return target instanceof HTMLInputElement && target.type !== 'checkbox' && target.type !== 'range';
}

/** Directions from which one looks, as the box at the top finds them. */
function useCommands({ stage, setView }: Looking) {
  return useMemo(
    () =>
      VIEW_NAMES.map((name) => ({
        title: `Look ${VIEWS[name].says}`,
        run: () => turned({ stage, setView }, name),
      })),
    [stage, setView],
  );
}

/**
 * What is selected here is what the margin and the tray are about; what an address selects is selected.
 *
 * @returns what is wrong with what the address selects, empty where nothing is
 */
function usePointing({ item, scene, state, select }: Looking): string {
  const { pointAt } = useDesk();
  const [node] = [...state.selected];
  const number = (state.selected.size === 1 && node !== undefined && scene.nodes[node]?.number) || item;
  useEffect(() => pointAt(number), [pointAt, number]);
  const [search] = useSearchParams();
  const wanted = search.get('select') ?? '';
  const { nodes } = scene;
  useEffect(() => {
    if (wanted !== '') select(nodes.flatMap((each, at) => (each.number === wanted ? at : [])));
  }, [wanted, nodes, select]);
  const isThere = wanted === '' || nodes.some((each) => each.number === wanted);
  return isThere ? '' : `${wanted} is not in ${item} under this lens, or nothing of it is drawn.`;
}

/** What is tried is selected as soon as it is in the picture. */
function useTriedSelected({ scene: { nodes }, select }: Looking, uses: number): void {
  useEffect(() => {
    const tried = nodes.findLastIndex(({ parent }, at) => at >= uses && parent < uses);
    if (tried >= 0) select([tried]);
  }, [nodes, uses, select]);
}

/** Pixels by which a pointer may move and still have clicked. */
const STILL = 4;

/** A click selects what is there, and measures at it; with Shift both are added to what was there before. */
function usePicking({
  stage,
  scene,
  loaded,
  picked,
  setPicked,
  measuresAt,
  select,
  state,
  isBoxing,
}: Looking) {
  const began = useRef<readonly [number, number]>([0, 0]);
  return {
    begin: ({ clientX, clientY }: React.PointerEvent): void => {
      began.current = [clientX, clientY];
    },
    click: ({ clientX, clientY, shiftKey, currentTarget }: React.MouseEvent<HTMLElement>): void => {
      const [x, y] = began.current;
      if (isBoxing || Math.hypot(clientX - x, clientY - y) > STILL) return;
      const hit = stage?.pick(clientX, clientY);
      if (!stage || !hit) {
        select([]);
        setPicked([]);
        return;
      }
      const { left, top } = currentTarget.getBoundingClientRect();
      const one = measured(hit, {
        ...{ scene, own: loaded[hit.mesh], at: measuresAt },
        far: (point) => {
          const at = stage.screenOf(point);
          return at ? Math.hypot(at[0] + left - clientX, at[1] + top - clientY) : Infinity;
        },
      });
      select(shiftKey ? [...state.selected, hit.node] : [hit.node]);
      setPicked(shiftKey ? [...picked.slice(-1), one] : [one]);
    },
  };
}

const Parts = styled.div`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(180px, 280px) minmax(0, 1fr);
  gap: 8px 10px;
`;
const Left = styled.div`
  display: flex;
  flex-direction: column;
  min-height: 0;
  gap: 8px;
  & > :first-child {
    flex: 1;
    min-height: 0;
  }
`;
const Panel = styled.div`
  display: flex;
  flex-direction: column;
  gap: 6px;
  max-height: 50%;
  overflow: auto;
`;
const Middle = styled.div`
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
`;
const StageBox = styled.div`
  flex: 1;
  min-height: 0;
  position: relative;
`;
const Stage = styled(PictureGround)`
  position: absolute;
  inset: 0;
`;
const Coming = styled.p`
  position: absolute;
  left: 10px;
  bottom: 8px;
  margin: 0;
  color: ${colour.inkSoft};
  pointer-events: none;
`;
const Said = styled.p`
  margin: 0;
  min-height: 2.8em;
`;
