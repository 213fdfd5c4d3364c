/** Two versions of a flat file laid over each other, to be read among other things: it stays still, and shows one difference after the other. */
import { around, extentOf, type Drawing, type Extent, type SheetOverlay } from '@stem-trace/core/sheet';
import type { FileFormat } from '@stem-trace/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import styled from 'styled-components';
import { addressOf } from '../../../api/client.js';
import { itemQuery } from '../../../api/queries.js';
import { Board, type Surface } from '../../../pictures/board/board.js';
import { NOWHERE } from '../../../pictures/board/sheet-painter.js';
import { drawnOn, useDrawing } from '../../../pictures/board/use-drawing.js';
import { Button, Pick, Soft, Trouble } from '../../../ui/controls.js';
import { overlaySurface } from './drawing-surface.js';
import { AtPlace, stepped, Steps } from './lay-over.js';
import { overlaidImages, overlaidPages, sayPlaces } from './overlaid.js';
import { useImage } from './use-image.js';
import { useOverlays } from './use-overlay.js';
import { usePage, usePdf } from './use-pdf.js';

export interface OverlaidFileProps {
  readonly number: string;
  readonly format: FileFormat;
  readonly from: string;
  readonly to: string;
}

export default function OverlaidFile(props: OverlaidFileProps): React.JSX.Element | null {
  switch (props.format) {
    case 'dxf':
      return <Drawings {...props} />;
    case 'pdf':
      return <Pages {...props} />;
    case 'image':
      return <Images {...props} />;
    default:
      return null;
  }
}

function Drawings({ number, from, to }: OverlaidFileProps): React.JSX.Element {
  const [first, second] = [useSide(`${number}@${from}`), useSide(`${number}@${to}`)];
  const both = useMemo(
    () => first.data && second.data && { first: first.data, second: second.data },
    [first.data, second.data],
  );
  const sheets = useOverlays(both);
  const error = first.error ?? second.error;
  if (error) return <Trouble>They cannot be laid over each other: {error.message}.</Trouble>;
  if (!sheets) return <Soft role="status">Laying both over each other …</Soft>;
  return <Sheets {...{ number, from, to, sheets }} />;
}

/** A version of a drawing with what it draws on. */
function useSide(reference: string): { readonly data: Drawing | undefined; readonly error: Error | null } {
  const item = useQuery(itemQuery(reference));
  const drawing = useDrawing(
    item.data ? addressOf('/api/file', { item: reference }) : '',
    drawnOn(item.data?.beside ?? []),
  );
  return { data: drawing.data, error: item.error ?? drawing.error };
}

function Sheets({
  number,
  from,
  to,
  sheets,
}: Omit<OverlaidFileProps, 'format'> & {
  readonly sheets: readonly SheetOverlay[];
}): React.JSX.Element {
  const differing = sheets.filter(({ overlay }) => overlay.places.length > 0);
  const [name, open] = useState(differing[0]?.name ?? '');
  const sheet = differing.find((each) => each.name === name) ?? differing[0];
  const surface = useMemo(() => sheet && overlaySurface(sheet.overlay, extentOver(sheet)), [sheet]);
  if (!sheet || !surface) return <Soft>Nothing that is drawn differs.</Soft>;
  return (
    <Still
      key={sheet.name}
      {...{ number, from, to, surface }}
      places={sheet.overlay.places}
      says={sayOnlyIn(sheet, { from, to })}
      tools={
        differing.length > 1 ? (
          <Pick
            label="Sheet"
            options={differing.map(({ name: key, overlay }) => ({
              key,
              text: `${key} (${overlay.places.length})`,
            }))}
            value={sheet.name}
            onChange={open}
          />
        ) : null
      }
    />
  );
}

function extentOver({ overlay: { both, onlyFirst, onlySecond } }: SheetOverlay): Extent {
  return around([both, onlyFirst, onlySecond].flatMap((marks) => extentOf(marks) ?? [])) ?? NOWHERE;
}

function sayOnlyIn({ name, onlyIn }: SheetOverlay, { from, to }: { from: string; to: string }): string {
  return onlyIn === null ? '' : `Only ${onlyIn === 'first' ? from : to} has the sheet ${name}.`;
}

function Pages({ number, from, to }: OverlaidFileProps): React.JSX.Element {
  const [first, second] = [usePdf(`${number}@${from}`), usePdf(`${number}@${to}`)];
  const [page, turn] = useState(1);
  const [before, after] = [usePage(first.data, page), usePage(second.data, page)];
  const laid = useQuery({
    queryKey: ['page overlay', number, to, from, page],
    queryFn: () => overlaidPages(before, after),
    enabled: before !== undefined && after !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const counts = [first.data?.numPages ?? 0, second.data?.numPages ?? 0] as const;
  const most = Math.max(...counts);
  const error = first.error ?? second.error ?? laid.error;
  const lacks = counts.includes(0) ? undefined : [from, to].find((_, side) => (counts[side] ?? 0) < page);
  const tools =
    most > 1 ? (
      <Pick
        label="Page"
        options={Array.from({ length: most }, (_, at) => ({
          key: String(at + 1),
          text: `${at + 1} of ${most}`,
        }))}
        value={String(page)}
        onChange={(key) => turn(Number(key))}
      />
    ) : null;
  if (error) return <Trouble>They cannot be laid over each other: {error.message}.</Trouble>;
  if (lacks !== undefined)
    return (
      <Line>
        {tools}
        <Soft role="status">
          {lacks} has no page {page}.
        </Soft>
      </Line>
    );
  if (!laid.data) return <Soft role="status">Laying both over each other …</Soft>;
  return <Still key={page} {...{ number, from, to, tools }} {...laid.data} />;
}

function Images({ number, from, to }: OverlaidFileProps): React.JSX.Element {
  const [first, second] = [useImage(`${number}@${from}`), useImage(`${number}@${to}`)];
  const laid = useQuery({
    queryKey: ['image overlay', number, to, from],
    queryFn: () => overlaidImages(first.data, second.data),
    enabled: first.data !== undefined && second.data !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const error = first.error ?? second.error ?? laid.error;
  if (error) return <Trouble>They cannot be laid over each other: {error.message}.</Trouble>;
  if (!laid.data) return <Soft role="status">Laying both over each other …</Soft>;
  return <Still {...{ number, from, to }} {...laid.data} />;
}

interface StillProps extends Omit<OverlaidFileProps, 'format'> {
  readonly surface: Surface;
  readonly places: readonly Extent[];
  readonly tools?: React.ReactNode;
  readonly says?: string;
}

function Still({ number, from, to, surface, places, tools, says = '' }: StillProps): React.JSX.Element {
  const [at, setAt] = useState(-1);
  const [goTo, go] = useState<Extent>();
  const show = (next: number): void => {
    setAt(next);
    go({ ...(places[next] ?? surface.extent) });
  };
  return (
    <>
      <Line role="toolbar" aria-label={`Both versions of ${number}`}>
        {tools}
        <Steps
          {...{ at }}
          first={from}
          second={to}
          count={places.length}
          step={(by) => show(stepped(at, places.length, by))}
        />
        <Button isDisabled={at < 0} onPress={() => show(-1)}>
          All of it
        </Button>
        <Soft role="status">
          {sayPlaces(places, null)} {says}
        </Soft>
      </Line>
      <Paper>
        <Board
          {...{ surface, goTo }}
          label={`${number} ${from} and ${to} laid over each other`}
          over={(view) => <AtPlace place={places[at]} view={view} />}
        />
      </Paper>
    </>
  );
}

const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
`;
const Paper = styled.div`
  & > * {
    height: min(46vh, 420px);
  }
`;
