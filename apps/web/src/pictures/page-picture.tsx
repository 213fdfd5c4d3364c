/** Pages of a PDF. */
import { useQuery } from '@tanstack/react-query';
import { getDocument, GlobalWorkerOptions, type PDFDocumentProxy } from 'pdfjs-dist';
import workerUrl from 'pdfjs-dist/build/pdf.worker.min.mjs?url';
import { useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { Button, Soft, Trouble } from '../ui/controls.js';
import { Figure, PictureFrame } from './picture-frame.js';
import type { FilePictureProps } from './picture.js';

GlobalWorkerOptions.workerSrc = workerUrl;

async function openPdf(url: string): Promise<PDFDocumentProxy> {
  return getDocument({ url, isEvalSupported: false }).promise;
}

export default function PagePicture({ item, file, isLarge }: FilePictureProps): React.JSX.Element {
  const [page, setPage] = useState(1);
  const pdf = useQuery({
    queryKey: ['pdf', file],
    queryFn: () => openPdf(file),
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const { data } = pdf;
  useEffect(() => {
    if (!data || !box.current || !canvas.current) return undefined;
    return drawPage(data, page, { box: box.current, canvas: canvas.current });
  }, [data, page]);
  const pages = data?.numPages ?? 0;
  return (
    <Figure>
      <PictureFrame
        ref={box}
        data-large={isLarge || undefined}
        role="img"
        aria-label={`Page ${page} of ${item}`}
      >
        {pdf.error ? <Trouble>This PDF cannot be shown. Fetch it to look at it elsewhere.</Trouble> : null}
        <Scroll data-large={isLarge || undefined}>
          <canvas ref={canvas} />
        </Scroll>
      </PictureFrame>
      <figcaption>
        <Tools>
          {isLarge ? (
            <>
              <Button isDisabled={page <= 1} onPress={() => setPage(page - 1)}>
                Previous page
              </Button>
              <Button isDisabled={page >= pages} onPress={() => setPage(page + 1)}>
                Next page
              </Button>
            </>
          ) : null}
          <Soft role="status">{data ? `Page ${page} of ${pages}` : 'Opening …'}</Soft>
        </Tools>
      </figcaption>
    </Figure>
  );
}

/** Draws a page as wide as there is room in the margin, or so that its text is legible. @returns a function that gives up */
function drawPage(
  pdf: PDFDocumentProxy,
  number: number,
  { box, canvas }: { box: HTMLElement; canvas: HTMLCanvasElement },
): () => void {
  let giveUp = (): void => undefined;
  let isWanted = true;
  void pdf.getPage(number).then((page) => {
    if (!isWanted) return;
    const natural = page.getViewport({ scale: 1 });
    const isLarge = box.dataset.large !== undefined;
    const scale = isLarge
      ? Math.min((box.clientWidth - 24) / natural.width, 1.8)
      : Math.min(box.clientWidth / natural.width, box.clientHeight / natural.height);
    const density = window.devicePixelRatio;
    const viewport = page.getViewport({ scale: scale * density });
    canvas.width = viewport.width;
    canvas.height = viewport.height;
    canvas.style.width = `${viewport.width / density}px`;
    const task = page.render({ canvas, viewport });
    giveUp = () => task.cancel();
    task.promise.catch(() => undefined);
  });
  return () => {
    isWanted = false;
    giveUp();
  };
}

const Scroll = styled.div`
  width: 100%;
  height: 100%;
  display: flex;
  justify-content: center;
  &[data-large] {
    overflow: auto;
    padding: 12px;
  }
  canvas {
    background: white;
    flex: none;
    align-self: flex-start;
  }
`;
const Tools = styled.div`
  display: flex;
  gap: 8px;
  align-items: center;
`;
