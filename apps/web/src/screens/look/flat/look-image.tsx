/** A picture to look at closely, draw on, and lay another version over. */
import type { Extent } from '@stem-trace/core/sheet';
import type { ItemView } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { addressOf } from '../../../api/client.js';
import { Soft, Trouble } from '../../../ui/controls.js';
import { bitmapSurface, comparedPixels, imagePixels, overlaidSurface } from './bitmap-surface.js';
import { FlatDesk } from './flat-desk.js';
import { AtPlace, LayOver, useLaidOver, stepKeys } from './lay-over.js';
import { sayPlaces, scaledPlaces, type OverlaidSurface } from './overlaid.js';

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

function useImage(reference: string) {
  return useQuery({
    queryKey: ['image', reference],
    queryFn: () => imageAt(addressOf('/api/file', { item: reference })),
    enabled: reference !== '',
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}

export default function LookImage({ item }: { readonly item: ItemView }): React.JSX.Element {
  const laid = useLaidOver(item);
  const image = useImage(`${item.number}@${item.shown}`);
  const other = useImage(laid.version === '' ? '' : laid.reference);
  const overlay = useQuery({
    queryKey: ['image overlay', item.number, item.shown, laid.version],
    queryFn: () => overlaid(other.data, image.data),
    enabled: other.data !== undefined && image.data !== undefined && laid.version !== '',
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const [goTo, go] = useState<Extent>();
  const plain = useMemo(() => image.data && bitmapSurface(image.data), [image.data]);
  if (image.error)
    return (
      <Trouble>
        This picture cannot be shown: {image.error.message}. Fetch it to look at it elsewhere.
      </Trouble>
    );
  if (!plain) return <Soft>Loading the picture …</Soft>;
  const laidOver = laid.version === '' ? undefined : overlay.data;
  return (
    <FlatDesk
      {...{ item, goTo }}
      surface={laidOver?.surface ?? plain}
      place=""
      label={`Picture ${item.number}`}
      over={(view) => <AtPlace place={laidOver?.places[laid.at]} view={view} />}
      tool={undefined}
      says={sayPlaces(laidOver?.places, other.error ?? overlay.error)}
      keys={stepKeys(laid, laidOver?.places, go)}
      sayLength={(pixels) => `${Math.round(pixels)} pixels`}
      catchSpot={(spot) => spot}
      tools={<LayOver {...laid} item={item} places={laidOver?.places} go={go} />}
      panels={null}
    />
  );
}

async function overlaid(
  first: ImageBitmap | undefined,
  second: ImageBitmap | undefined,
): Promise<OverlaidSurface> {
  if (!first || !second) throw new Error('there is nothing to lay over');
  const pixels = await comparedPixels(imagePixels(first), imagePixels(second));
  return { surface: await overlaidSurface(pixels, second), places: scaledPlaces(pixels, second) };
}
