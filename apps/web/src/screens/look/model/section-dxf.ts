import type { Outline } from '@stem-trace/core/look';
import { DxfWriter, LWPolylineFlags, point2d, Units } from '@tarikjabiri/dxf';

/** Outlines as DXF at full size: a unit is a millimetre, each body on a layer of its own, each ring a closed polyline. */
export function sectionDxf(outlines: readonly Outline[]): string {
  const writer = new DxfWriter();
  writer.setUnits(Units.Millimeters);
  for (const { of, rings } of outlines) {
    const layer = `BODY-${of + 1}`;
    writer.addLayer(layer, 7, 'Continuous');
    for (const ring of rings)
      writer.addLWPolyline(
        ring.map(([x, y]) => ({ point: point2d(x, y) })),
        { flags: LWPolylineFlags.Closed, layerName: layer },
      );
  }
  return writer.stringify();
}
