/** A drawing as small as the margin has room for. */
import { extentOf } from '@stem-trace/core/sheet';
import { useMemo } from 'react';
import { Soft } from '../ui/controls.js';
import { Board, type Surface } from './board/board.js';
import { NOWHERE, SheetPainter } from './board/sheet-painter.js';
import { drawnOn, useDrawing } from './board/use-drawing.js';
import { Figure, PictureFrame } from './picture-frame.js';
import type { FilePictureProps } from './picture.js';

export default function DrawingPicture({ item, file, beside = [] }: FilePictureProps): React.JSX.Element {
  const { data, error } = useDrawing(file, drawnOn(beside));
  const sheet = data?.sheets[0];
  const surface = useMemo((): Surface | undefined => {
    if (!data || !sheet) return undefined;
    const hidden = new Set(data.layers.flatMap(({ isOn }, index) => (isOn ? [] : index)));
    const painter = new SheetPainter(sheet.marks, { hidden });
    return {
      extent: extentOf(sheet.marks) ?? NOWHERE,
      paint: (context, view, density) => painter.paint(context, view, density),
    };
  }, [data, sheet]);
  const says = error
    ? 'This drawing cannot be shown. Fetch it to look at it elsewhere.'
    : data && !sheet
      ? 'There is nothing on this sheet.'
      : surface
        ? sayExtent(surface)
        : 'Drawing …';
  return (
    <Figure>
      {surface ? <Board {...{ surface }} label={`Drawing ${item}`} /> : <PictureFrame />}
      <figcaption>
        <Soft role="status">{says}</Soft>
      </figcaption>
    </Figure>
  );
}

function sayExtent({ extent: { low, high } }: Surface): string {
  const length = (axis: 0 | 1): string => Number((high[axis] - low[axis]).toPrecision(4)).toString();
  return `${length(0)} × ${length(1)} units`;
}
