/** First page of a PDF, as small as the margin has room for. */
import { useQuery } from '@tanstack/react-query';
import type { PDFDocumentProxy } from 'pdfjs-dist';
import { useEffect, useRef } from 'react';
import { Soft, Trouble } from '../ui/controls.js';
import { openPdf } from './open-pdf.js';
import { Figure, PictureFrame } from './picture-frame.js';
import type { FilePictureProps } from './picture.js';

export default function PagePicture({ item, file }: FilePictureProps): React.JSX.Element {
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
    return drawFirst(data, { box: box.current, canvas: canvas.current });
  }, [data]);
  return (
    <Figure>
      <PictureFrame
        ref={box}
        role="img"
        aria-label={`First page of ${item}`}
        style={{ background: '#ffffff' }}
      >
        {pdf.error ? <Trouble>This PDF cannot be shown. Fetch it to look at it elsewhere.</Trouble> : null}
        <canvas ref={canvas} style={{ margin: '0 auto' }} />
      </PictureFrame>
      <figcaption>
        <Soft role="status">{data ? `Page 1 of ${data.numPages}` : 'Opening …'}</Soft>
      </figcaption>
    </Figure>
  );
}

/** As large as there is room. @returns a function that gives up */
function drawFirst(
  pdf: PDFDocumentProxy,
  { box, canvas }: { box: HTMLElement; canvas: HTMLCanvasElement },
): () => void {
  let giveUp = (): void => undefined;
  let isWanted = true;
  void pdf.getPage(1).then((page) => {
    if (!isWanted) return;
    const natural = page.getViewport({ scale: 1 });
    const scale = Math.min(box.clientWidth / natural.width, box.clientHeight / natural.height);
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
