/** Small pictures of all pages, each drawn when it comes into sight. */
import type { PDFDocumentProxy } from 'pdfjs-dist';
import { useEffect } from 'react';
import styled from 'styled-components';
import { colour } from '../../../ui/theme.js';
import { useInSight } from '../../../ui/use-in-sight.js';

const WIDE_PX = 92;

export interface ThumbsProps {
  readonly pdf: PDFDocumentProxy;
  readonly number: number;
  readonly turn: (number: number) => void;
}

export function Thumbs({ pdf, number, turn }: ThumbsProps): React.JSX.Element {
  return (
    <Pages>
      {Array.from({ length: pdf.numPages }, (_, index) => (
        <Thumb
          key={index}
          pdf={pdf}
          page={index + 1}
          isOpen={index + 1 === number}
          open={() => turn(index + 1)}
        />
      ))}
    </Pages>
  );
}

interface ThumbProps {
  readonly pdf: PDFDocumentProxy;
  readonly page: number;
  readonly isOpen: boolean;
  readonly open: () => void;
}

function Thumb({ pdf, page, isOpen, open }: ThumbProps): React.JSX.Element {
  const [canvas, isSeen] = useInSight<HTMLCanvasElement>();
  useEffect(() => {
    if (isSeen && canvas.current) void draw(pdf, page, canvas.current);
  }, [pdf, page, canvas, isSeen]);
  return (
    <button type="button" aria-current={isOpen ? 'page' : undefined} onClick={open}>
      <canvas ref={canvas} width={WIDE_PX} height={130} />
      {page}
    </button>
  );
}

async function draw(pdf: PDFDocumentProxy, number: number, canvas: HTMLCanvasElement): Promise<void> {
  const page = await pdf.getPage(number);
  const viewport = page.getViewport({ scale: WIDE_PX / page.getViewport({ scale: 1 }).width });
  canvas.width = viewport.width;
  canvas.height = viewport.height;
  await page.render({ canvas, viewport }).promise.catch(() => undefined);
}

const Pages = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(${WIDE_PX + 8}px, 1fr));
  gap: 6px;
  button {
    display: flex;
    flex-direction: column;
    align-items: center;
    padding: 3px;
    border: 1px solid ${colour.line};
    border-radius: 4px;
    background: ${colour.raised};
    color: inherit;
    font: inherit;
    cursor: pointer;
  }
  button[aria-current] {
    border-color: ${colour.petrol};
    box-shadow: inset 0 0 0 1px ${colour.petrol};
  }
  canvas {
    background: #ffffff;
  }
`;
