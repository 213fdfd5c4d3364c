/** The file of an item as large as there is room, whatever it is, with the tools that such files have. */
import type { LensText } from '@stem-trace/contract';
import type { FileFormat } from '@stem-trace/core';
import { lazy, Suspense } from 'react';
import { hasPicture, Picture } from '../../pictures/picture.js';
import { Hint, Soft } from '../../ui/controls.js';
import type { FlatProps } from './flat/flat-desk.js';

const LookModel = lazy(() => import('./model/look-model.js'));
/** Flat files, by what they are. */
const FLAT: Readonly<Partial<Record<FileFormat, React.ComponentType<FlatProps>>>> = {
  dxf: lazy(() => import('./flat/look-drawing.js')),
  pdf: lazy(() => import('./flat/look-page.js')),
  image: lazy(() => import('./flat/look-image.js')),
};

export interface LookFileProps extends FlatProps {
  readonly lens: LensText;
}

export function LookFile({ item, before, lens }: LookFileProps): React.JSX.Element {
  const key = `${item.number}@${item.shown}`;
  const Flat = FLAT[item.format];
  if (item.format !== 'step' && !Flat)
    return hasPicture(item) ? (
      <Picture item={item} lens={lens} isLarge />
    ) : (
      <Hint>
        There is no picture of a file like {item.fileName}. Fetch it to open it with the program that made it.
      </Hint>
    );
  return (
    <Suspense fallback={<Soft>Loading the picture …</Soft>}>
      {Flat ? (
        <Flat key={key} {...{ item, before }} />
      ) : (
        <LookModel key={`${key} ${lens}`} item={key} lens={lens} />
      )}
    </Suspense>
  );
}
