/** A drawing to work with: sheets, layers, words, measures, and another version laid over it. */
import {
  findWords,
  onLayers,
  scaleOf,
  type Drawing,
  type Extent,
  type Overlay,
  type Sheet,
  type Spot,
} from '@stem-trace/core/sheet';
import type { ItemView } from '@stem-trace/contract';
import { useEffect, useMemo, useRef, useState } from 'react';
import { addressOf } from '../../../api/client.js';
import type { BoardTool } from '../../../pictures/board/board.js';
import { toScreen, type View } from '../../../pictures/board/view.js';
import { drawnOn, useDrawing } from '../../../pictures/board/use-drawing.js';
import { Box, Button, Pick as PickOne, Soft, Trouble } from '../../../ui/controls.js';
import { useShowing } from '../../../ui/showing.js';
import { colour } from '../../../ui/theme.js';
import { layersOff, overlaySurface, sheetSurface } from './drawing-surface.js';
import { FlatDesk, Panel, type FlatProps } from './flat-desk.js';
import { AtPlace, LayOver, useLaidOver, stepKeys } from './lay-over.js';
import { useMeasuring } from './measuring.js';
import { useOverlay } from './use-overlay.js';

/** How near the pointer must come, in pixels. */
const CATCH_PX = 12;

export default function LookDrawing({ item, before }: FlatProps): React.JSX.Element {
  const file = addressOf('/api/file', { item: `${item.number}@${item.shown}` });
  const drawing = useDrawing(file, drawnOn(item.beside));
  const laid = useLaidOver(item, before);
  const other = useDrawing(
    laid.version === '' ? '' : addressOf('/api/file', { item: laid.reference }),
    drawnOn(item.beside),
  );
  if (drawing.error)
    return (
      <Trouble>
        This drawing cannot be shown: {drawing.error.message}. Fetch it to look at it elsewhere.
      </Trouble>
    );
  if (!drawing.data || (laid.version !== '' && other.isPending)) return <Soft>Reading the drawing …</Soft>;
  return (
    <Shown
      {...{ item, drawing: drawing.data, laid }}
      other={laid.version === '' ? undefined : other.data}
      trouble={other.error?.message}
    />
  );
}

interface ShownProps {
  readonly item: ItemView;
  readonly drawing: Drawing;
  readonly laid: ReturnType<typeof useLaidOver>;
  readonly other: Drawing | undefined;
  readonly trouble: string | undefined;
}

function Shown({ item, drawing, laid, other, trouble }: ShownProps): React.JSX.Element {
  const [name, open] = useState(drawing.sheets[0]?.name ?? '');
  const [hidden, hide] = useState(() => layersOff(drawing));
  const sheet = drawing.sheets.find((each) => each.name === name) ?? EMPTY;
  const overlay = useOverlay(useBoth({ drawing, other, sheet, hidden }));
  const surface = useMemo(() => {
    const plain = sheetSurface(sheet, hidden);
    return overlay ? overlaySurface(overlay, plain.extent) : plain;
  }, [sheet, hidden, overlay]);
  const [goTo, go] = useState<Extent>();
  const scale = useRef(1);
  const { length } = useShowing();
  const ratio = useMemo(() => scaleOf(sheet.marks), [sheet]);
  const sayLength = (units: number): string => {
    const onSheet = sayUnits(units, drawing.unitMm, length);
    return ratio === undefined || ratio.factor === 1
      ? onSheet
      : `${sayUnits(units * ratio.factor, drawing.unitMm, length)} at ${ratio.says} (${onSheet} on the sheet)`;
  };
  const measuring = useMeasuring({ marks: sheet.marks, reach: () => CATCH_PX / scale.current, sayLength });
  const [measures, measure] = useState(false);
  const words = useWords(sheet, go);
  const over = (view: View): React.ReactNode => {
    scale.current = view.scale;
    return (
      <>
        {words.found.map(({ corners }, at) => (
          <Marked
            key={corners.join(' ')}
            corners={corners.map((corner) => toScreen(view, corner))}
            isAt={at === words.at}
          />
        ))}
        <AtPlace place={overlay?.places[laid.at]} view={view} />
        {measures ? measuring.over(view) : null}
      </>
    );
  };
  return (
    <FlatDesk
      {...{ item, surface, over, goTo, open }}
      place={name}
      label={`Drawing ${item.number}`}
      tool={measures ? (measuring.tool satisfies BoardTool) : undefined}
      sayLength={sayLength}
      catchSpot={(spot) => measuring.caught(spot).at}
      keys={{
        m: () => measure(!measures),
        ...stepKeys(laid, overlay?.places, go),
      }}
      says={measures ? measuring.says : sayWhatIs(drawing, overlay, trouble)}
      tools={<Tools {...{ item, drawing, laid, name, open, measures, measure, overlay, go }} />}
      panels={<Panels {...{ drawing, hidden, hide }} words={words.field} />}
    />
  );
}

/** The sheet and the same of the other version, without what is hidden; layers are the same where their names are. */
function useBoth({
  drawing,
  other,
  sheet,
  hidden,
}: Pick<ShownProps, 'drawing' | 'other'> & {
  readonly sheet: Sheet;
  readonly hidden: ReadonlySet<number>;
}): { readonly first: Sheet; readonly second: Sheet } | undefined {
  return useMemo(() => {
    if (!other) return undefined;
    const areSingle = drawing.sheets.length === 1 && other.sheets.length === 1;
    const same = areSingle ? other.sheets[0] : other.sheets.find(({ name }) => name === sheet.name);
    const byName = new Map(drawing.layers.map(({ name }, index) => [name, !hidden.has(index)]));
    const isOn = other.layers.map(({ name, isOn: own }) => byName.get(name) ?? own);
    return {
      first: same ? { ...same, marks: onLayers(same.marks, (layer) => isOn[layer] ?? true) } : EMPTY,
      second: { ...sheet, marks: onLayers(sheet.marks, (layer) => !hidden.has(layer)) },
    };
  }, [drawing, other, sheet, hidden]);
}

interface ToolsProps extends Pick<ShownProps, 'item' | 'drawing' | 'laid'> {
  readonly name: string;
  readonly open: (name: string) => void;
  readonly measures: boolean;
  readonly measure: (measures: boolean) => void;
  readonly overlay: Overlay | undefined;
  readonly go: (extent: Extent) => void;
}

function Tools({
  item,
  drawing,
  laid,
  name,
  open,
  measures,
  measure,
  overlay,
  go,
}: ToolsProps): React.JSX.Element {
  return (
    <>
      {drawing.sheets.length > 1 ? (
        <PickOne
          label="Sheet"
          options={drawing.sheets.map(({ name: key }) => ({ key, text: key }))}
          value={name}
          onChange={open}
        />
      ) : null}
      <Button onPress={() => measure(!measures)} aria-pressed={measures}>
        {measures ? 'End measuring (M)' : 'Measure (M)'}
      </Button>
      <LayOver {...laid} item={item} places={overlay?.places} go={go} />
    </>
  );
}

interface PanelsProps {
  readonly drawing: Drawing;
  readonly hidden: ReadonlySet<number>;
  readonly hide: (hidden: ReadonlySet<number>) => void;
  readonly words: React.ReactNode;
}

function Panels({ drawing, hidden, hide, words }: PanelsProps): React.JSX.Element {
  const { layers, undrawn } = drawing;
  return (
    <>
      <Panel title="Words">{words}</Panel>
      <Panel title={`Layers (${layers.length - hidden.size} of ${layers.length} on)`}>
        {layers.map((layer, index) => (
          <label key={layer.name}>
            <input
              type="checkbox"
              checked={!hidden.has(index)}
              onChange={() => hide(toggled(hidden, index))}
            />{' '}
            {layer.name}
          </label>
        ))}
      </Panel>
      {undrawn.length > 0 ? <LeftOut {...drawing} /> : null}
    </>
  );
}

const EMPTY: Sheet = { name: '', marks: [], paperMm: null };

function toggled(all: ReadonlySet<number>, one: number): ReadonlySet<number> {
  const next = new Set(all);
  if (!next.delete(one)) next.add(one);
  return next;
}

const DIGITS = new Intl.NumberFormat('en-GB', { maximumSignificantDigits: 5 });

/** In the person's unit where the file says what its own is. */
function sayUnits(units: number, unitMm: number | null, wanted: 'mm' | 'in'): string {
  if (unitMm === null) return `${DIGITS.format(units)} units`;
  const mm = units * unitMm;
  return wanted === 'in' ? `${DIGITS.format(mm / 25.4)} in` : `${DIGITS.format(mm)} mm`;
}

function sayWhatIs({ undrawn }: Drawing, overlay: Overlay | undefined, trouble: string | undefined): string {
  if (trouble !== undefined) return `The other version cannot be shown: ${trouble}.`;
  if (overlay) {
    const count = overlay.places.length;
    return count === 0
      ? 'Both show the same.'
      : `They differ at ${count} ${count === 1 ? 'place' : 'places'}.`;
  }
  const count = undrawn.reduce((sum, each) => sum + each.count, 0);
  return count === 0 ? '' : `${count} ${count === 1 ? 'thing is' : 'things are'} not drawn; see “Not drawn”.`;
}

function LeftOut({ undrawn }: Drawing): React.JSX.Element {
  return (
    <Panel title="Not drawn">
      {undrawn.map(({ what, why, count }) => (
        <div key={`${what} ${why}`}>
          {count} × {what} <Soft>– {why}</Soft>
        </div>
      ))}
    </Panel>
  );
}

/** Words that are looked for on the sheet, one place after the other. */
function useWords(sheet: Sheet, go: (extent: Extent) => void) {
  const [wanted, want] = useState('');
  const [at, setAt] = useState(0);
  const found = useMemo(() => findWords(sheet.marks, wanted), [sheet, wanted]);
  useEffect(() => setAt(0), [wanted, sheet]);
  const next = (): void => {
    const corners = found[at]?.corners;
    if (!corners) return;
    const [xs, ys] = [corners.map(([x]) => x), corners.map(([, y]) => y)];
    go({ low: [Math.min(...xs), Math.min(...ys)], high: [Math.max(...xs), Math.max(...ys)] });
    setAt((at + 1) % found.length);
  };
  const field = (
    <>
      <Box
        aria-label="Words on the sheet"
        placeholder="Words on the sheet"
        value={wanted}
        onChange={({ target }) => want(target.value)}
        onKeyDown={({ key }) => (key === 'Enter' ? next() : undefined)}
      />
      {wanted.trim() === '' ? null : (
        <Soft role="status">
          {found.length === 0
            ? 'Nothing on this sheet says that.'
            : `${found.length} found; Enter goes to the next.`}
        </Soft>
      )}
    </>
  );
  return { found, at: found.length === 0 ? 0 : (at + found.length - 1) % found.length, field };
}

function Marked({
  corners,
  isAt,
}: {
  readonly corners: readonly Spot[];
  readonly isAt: boolean;
}): React.JSX.Element {
  return (
    <polygon
      points={corners.map(([x, y]) => `${x},${y}`).join(' ')}
      fill={colour.copper}
      fillOpacity={isAt ? 0.32 : 0.14}
      stroke={colour.copper}
      strokeWidth={isAt ? 2 : 1}
    />
  );
}
