/** A picture to look at closely, draw on, and lay another version over. */
import type { Extent } from '@stem-trace/core/sheet';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { Soft, Trouble } from '../../../ui/controls.js';
import { bitmapSurface } from './bitmap-surface.js';
import { FlatDesk, type FlatProps } from './flat-desk.js';
import { AtPlace, LayOver, useLaidOver, stepKeys } from './lay-over.js';
import { overlaidImages, sayPlaces } from './overlaid.js';
import { useImage } from './use-image.js';

export default function LookImage({ item, before }: FlatProps): React.JSX.Element {
  const laid = useLaidOver(item, before);
  const image = useImage(`${item.number}@${item.shown}`);
  const other = useImage(laid.version === '' ? '' : laid.reference);
  const overlay = useQuery({
    queryKey: ['image overlay', item.number, item.shown, laid.version],
    queryFn: () => overlaidImages(other.data, image.data),
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
