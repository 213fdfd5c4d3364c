/** Pages of a PDF to look at closely: small pictures of all, words, mark-up, another version laid over. */
import type { Extent } from '@stem-trace/core/sheet';
import type { ItemView } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import type { PDFDocumentProxy, PDFPageProxy } from 'pdfjs-dist';
import { useEffect, useMemo, useState } from 'react';
import { toScreen, type View } from '../../../pictures/board/view.js';
import { Box, Button, Soft, Trouble } from '../../../ui/controls.js';
import { colour } from '../../../ui/theme.js';
import { pageSurface } from './bitmap-surface.js';
import { FlatDesk, Panel, type FlatProps } from './flat-desk.js';
import { AtPlace, LayOver, useLaidOver, stepKeys } from './lay-over.js';
import { overlaidPages, sayPlaces } from './overlaid.js';
import { Thumbs } from './page-thumbs.js';
import { usePageWords, type PageWords } from './page-words.js';
import { usePage, usePdf } from './use-pdf.js';

export default function LookPage({ item, before }: FlatProps): React.JSX.Element {
  const pdf = usePdf(`${item.number}@${item.shown}`);
  const [number, turn] = useState(1);
  const page = usePage(pdf.data, number);
  if (pdf.error)
    return (
      <Trouble>This PDF cannot be shown: {pdf.error.message}. Fetch it to look at it elsewhere.</Trouble>
    );
  if (!pdf.data || !page) return <Soft>Opening …</Soft>;
  return <Shown {...{ item, before, number, turn, page }} pdf={pdf.data} />;
}

interface ShownProps extends FlatProps {
  readonly pdf: PDFDocumentProxy;
  readonly page: PDFPageProxy;
  readonly number: number;
  readonly turn: (number: number) => void;
}

function Shown({ item, before, pdf, page, number, turn }: ShownProps): React.JSX.Element {
  const laid = useLaidOver(item, before);
  const [goTo, go] = useState<Extent>();
  const plain = useMemo(() => pageSurface(page), [page]);
  useEffect(() => () => plain.end(), [plain]);
  const overlay = usePageOverlay(item, laid, { page, number });
  const words = usePageWords(pdf, { number, turn, go });
  const laidOver = laid.version === '' ? undefined : overlay.data;
  const turnBy = (by: number) => () => turn(Math.min(Math.max(number + by, 1), pdf.numPages));
  return (
    <FlatDesk
      {...{ item, goTo }}
      surface={laidOver?.surface ?? plain}
      place={`page ${number}`}
      open={(place) => turn(Number(/\d+/.exec(place)?.[0] ?? 1))}
      label={`Page ${number} of ${item.number}`}
      over={(view) => (
        <>
          <AtPlace place={laidOver?.places[laid.at]} view={view} />
          <Found {...{ words, view }} />
        </>
      )}
      tool={undefined}
      says={sayPlaces(laidOver?.places, overlay.error) || `Page ${number} of ${pdf.numPages}`}
      keys={{
        pagedown: turnBy(1),
        pageup: turnBy(-1),
        ...stepKeys(laid, laidOver?.places, go),
      }}
      // Points of a page (PDF, 8.3.2.3): 72 to an inch.
      sayLength={(points) => `${Number(((points * 25.4) / 72).toPrecision(4))} mm on paper`}
      catchSpot={(spot) => spot}
      tools={
        <>
          <Button isDisabled={number <= 1} onPress={turnBy(-1)}>
            Previous page
          </Button>
          <Button isDisabled={number >= pdf.numPages} onPress={turnBy(1)}>
            Next page
          </Button>
          <LayOver {...laid} item={item} places={laidOver?.places} go={go} />
        </>
      }
      panels={<PagePanels {...{ pdf, number, turn, words }} />}
    />
  );
}

interface PagePanelsProps extends Pick<ShownProps, 'pdf' | 'number' | 'turn'> {
  readonly words: PageWords;
}

function PagePanels({ pdf, number, turn, words }: PagePanelsProps): React.JSX.Element {
  return (
    <>
      <Panel title="Words">
        <Box
          aria-label="Words in it"
          placeholder="Words in it"
          value={words.wanted}
          onChange={({ target }) => words.want(target.value)}
          onKeyDown={({ key }) => (key === 'Enter' ? words.next() : undefined)}
        />
        {words.says === '' ? null : <Soft role="status">{words.says}</Soft>}
      </Panel>
      {pdf.numPages > 1 ? (
        <Panel title="Pages">
          <Thumbs {...{ pdf, number, turn }} />
        </Panel>
      ) : null}
    </>
  );
}

function usePageOverlay(
  item: ItemView,
  laid: ReturnType<typeof useLaidOver>,
  { page, number }: { readonly page: PDFPageProxy; readonly number: number },
) {
  const pdf = usePdf(laid.version === '' ? '' : laid.reference);
  const other = usePage(pdf.data, number);
  const query = useQuery({
    queryKey: ['page overlay', item.number, item.shown, laid.version, number],
    queryFn: () => overlaidPages(other, page),
    enabled: other !== undefined && laid.version !== '',
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const lacks =
    pdf.data && number > pdf.data.numPages ? new Error(`${laid.version} has no page ${number}`) : null;
  return { data: lacks ? undefined : query.data, error: pdf.error ?? lacks ?? query.error };
}

function Found({ words, view }: { readonly words: PageWords; readonly view: View }): React.JSX.Element {
  return (
    <>
      {words.here.map(({ low, high }) => {
        const [left, bottom] = toScreen(view, low);
        const [right, top] = toScreen(view, high);
        return (
          <rect
            key={`${low.join(' ')} ${high.join(' ')}`}
            {...{ x: left, y: top, width: right - left, height: bottom - top }}
            fill={colour.copper}
            fillOpacity={0.22}
            stroke={colour.copper}
          />
        );
      })}
    </>
  );
}
