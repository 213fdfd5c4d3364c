import { Download } from 'lucide-react';
import { useState } from 'react';
import { Button, Soft } from '../../../ui/controls.js';
import { download } from '../../../ui/download.js';
import type { Drawing } from './drawing.js';
import { mapPng, mapSvg } from './map-picture.js';

export interface TakeAwayProps {
  readonly drawing: Drawing;
  /** What the file is named after. */
  readonly name: string;
}

/** Buttons that save the map as a picture. */
export function TakeAway({ drawing, name }: TakeAwayProps): React.JSX.Element {
  const [trouble, setTrouble] = useState('');
  const take = async (kind: 'svg' | 'png'): Promise<void> => {
    try {
      const svg = mapSvg(drawing);
      const blob = kind === 'svg' ? new Blob([svg], { type: 'image/svg+xml' }) : await mapPng(svg);
      download(blob, `map of ${name.replaceAll('/', '-')}.${kind}`);
      setTrouble('');
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <>
      {trouble === '' ? null : <Soft role="alert">{trouble}</Soft>}
      <Button onPress={() => void take('svg')}>
        <Download size={15} aria-hidden /> SVG
      </Button>
      <Button onPress={() => void take('png')}>
        <Download size={15} aria-hidden /> PNG
      </Button>
    </>
  );
}
