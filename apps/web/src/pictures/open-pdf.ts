import { getDocument, GlobalWorkerOptions, type PDFDocumentProxy } from 'pdfjs-dist';
import workerUrl from 'pdfjs-dist/build/pdf.worker.min.mjs?url';

GlobalWorkerOptions.workerSrc = workerUrl;

/** What a PDF asks to be run is not. */
export async function openPdf(url: string): Promise<PDFDocumentProxy> {
  return getDocument({ url, isEvalSupported: false }).promise;
}
