import { useQuery } from '@tanstack/react-query';
import { addressOf } from '../../../api/client.js';

/** Side of a picture of lines, which has no pixels of its own. */
const LINES_PX = 2000;

/** As an element of the page decodes it, which also draws pictures made of lines, and runs nothing that is in them. */
async function imageAt(url: string): Promise<ImageBitmap> {
  const image = new Image();
  image.src = url;
  await image.decode().catch(() => {
    throw new Error('it cannot be decoded');
  });
  const [width, height] = [image.naturalWidth || LINES_PX, image.naturalHeight || LINES_PX];
  const isSmall = Math.max(width, height) < LINES_PX / 2;
  const response = isSmall ? await fetch(url) : undefined;
  const isLines = response?.headers.get('Content-Type')?.includes('svg') === true;
  const scale = isLines ? LINES_PX / Math.max(width, height) : 1;
  const canvas = document.createElement('canvas');
  canvas.width = Math.round(width * scale);
  canvas.height = Math.round(height * scale);
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return createImageBitmap(canvas);
}

/** The picture of a version, `NUMBER@B/3`; none where it is empty. */
export function useImage(reference: string) {
  return useQuery({
    queryKey: ['image', reference],
    queryFn: () => imageAt(addressOf('/api/file', { item: reference })),
    enabled: reference !== '',
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}
