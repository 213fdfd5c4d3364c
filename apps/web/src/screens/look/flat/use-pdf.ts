import { useQuery } from '@tanstack/react-query';
import type { PDFDocumentProxy, PDFPageProxy } from 'pdfjs-dist';
import { useEffect, useState } from 'react';
import { addressOf } from '../../../api/client.js';
import { openPdf } from '../../../pictures/open-pdf.js';

/** The file of a version, `NUMBER@B/3`; none where it is empty. */
export function usePdf(reference: string) {
  return useQuery({
    queryKey: ['pdf', addressOf('/api/file', { item: reference })],
    queryFn: () => openPdf(addressOf('/api/file', { item: reference })),
    enabled: reference !== '',
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}

export function usePage(pdf: PDFDocumentProxy | undefined, number: number): PDFPageProxy | undefined {
  const [page, setPage] = useState<PDFPageProxy>();
  useEffect(() => {
    let isWanted = true;
    setPage(undefined);
    if (pdf && number <= pdf.numPages) void pdf.getPage(number).then((found) => isWanted && setPage(found));
    return () => {
      isWanted = false;
    };
  }, [pdf, number]);
  return page;
}
