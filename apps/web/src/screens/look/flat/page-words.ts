/** Words in the pages of a PDF, one place after the other. */
import type { Extent } from '@stem-trace/core/sheet';
import { useQuery } from '@tanstack/react-query';
import type { PDFDocumentProxy } from 'pdfjs-dist';
import { useState } from 'react';

interface Place {
  readonly page: number;
  readonly extent: Extent;
}

export type PageWords = ReturnType<typeof usePageWords>;

/** More than anybody would go through one by one. */
const MOST = 2000;

export function usePageWords(
  pdf: PDFDocumentProxy,
  {
    number,
    turn,
    go,
  }: {
    readonly number: number;
    readonly turn: (page: number) => void;
    readonly go: (extent: Extent) => void;
  },
) {
  const [wanted, want] = useState('');
  const [at, setAt] = useState(-1);
  const words = wanted.trim().toLowerCase();
  const { data: found = [], isFetching } = useQuery({
    queryKey: ['pdf words', pdf.fingerprints[0], words],
    queryFn: () => placesIn(pdf, words),
    enabled: words.length > 1,
    gcTime: 10_000,
    staleTime: Infinity,
  });
  const places = words.length > 1 ? found : [];
  return {
    wanted,
    want: (next: string): void => {
      want(next);
      setAt(-1);
    },
    here: places.flatMap(({ page, extent }) => (page === number ? [extent] : [])),
    says:
      words.length < 2
        ? ''
        : isFetching
          ? 'Looking …'
          : places.length === 0
            ? 'Nothing in it says that.'
            : `${places.length} found; Enter goes to the next.`,
    next: (): void => {
      const following = (at + 1) % Math.max(places.length, 1);
      const place = places[following];
      if (!place) return;
      setAt(following);
      turn(place.page);
      go({ ...place.extent });
    },
  };
}

async function placesIn(pdf: PDFDocumentProxy, words: string): Promise<Place[]> {
  const places: Place[] = [];
  for (let number = 1; number <= pdf.numPages && places.length < MOST; number++) {
    const { items } = await (await pdf.getPage(number)).getTextContent();
    for (const item of items) {
      if (!('str' in item)) continue;
      const [, , , , left = 0, y = 0] = item.transform as number[];
      const text = item.str.toLowerCase();
      // Letters are not measured one by one, so where it stands in its line is known to a letter or two.
      const letter = item.width / Math.max(text.length, 1);
      for (let from = text.indexOf(words); from >= 0; from = text.indexOf(words, from + words.length)) {
        const [x, right] = [left + from * letter, left + (from + words.length) * letter];
        places.push({
          page: number,
          extent: { low: [x, y - item.height * 0.2], high: [right, y + item.height] },
        });
      }
    }
  }
  return places;
}
