/** A drawing in two dimensions, to be moved and magnified. */
import { DxfViewer } from 'dxf-viewer';
import { useEffect, useRef, useState } from 'react';
import { Color, Vector3 } from 'three';
import styled from 'styled-components';
import fontUrl from '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-400-normal.woff?url';
import extendedFontUrl from '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-ext-400-normal.woff?url';
import greekFontUrl from '@fontsource/ibm-plex-sans/files/ibm-plex-sans-greek-400-normal.woff?url';
import { Button, Soft } from '../ui/controls.js';
import { Figure, PictureFrame } from './picture-frame.js';
import type { FilePictureProps } from './picture.js';

const PAPER = 0xffffff;
/** One press of a key or a button. */
const CLOSER = 0.8;
const STEP = 0.12;

export default function DrawingPicture({ item, file, isLarge }: FilePictureProps): React.JSX.Element {
  const box = useRef<HTMLDivElement>(null);
  const shown = useRef<Sheet>(undefined);
  const [says, setSays] = useState('Drawing …');
  useEffect(() => {
    if (!box.current) return undefined;
    const sheet = new Sheet(box.current);
    shown.current = sheet;
    let isWanted = true;
    sheet.load(file).then(
      (size) => isWanted && setSays(size),
      () => isWanted && setSays('This drawing cannot be shown. Fetch it to look at it elsewhere.'),
    );
    return () => {
      isWanted = false;
      sheet.end();
    };
  }, [file]);
  const onKeyDown = (event: React.KeyboardEvent): void => {
    const sheet = shown.current;
    const moves: Readonly<Record<string, () => void>> = {
      '+': () => sheet?.magnify(CLOSER),
      '-': () => sheet?.magnify(1 / CLOSER),
      '0': () => sheet?.fit(),
      ArrowLeft: () => sheet?.move(-STEP, 0),
      ArrowRight: () => sheet?.move(STEP, 0),
      ArrowUp: () => sheet?.move(0, STEP),
      ArrowDown: () => sheet?.move(0, -STEP),
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    event.stopPropagation();
    move();
  };
  return (
    <Figure>
      <PictureFrame
        ref={box}
        data-large={isLarge || undefined}
        role="application"
        aria-label={`Drawing ${item}. Plus and minus magnify, arrow keys move, 0 shows all.`}
        {...(isLarge ? { tabIndex: 0, onKeyDown } : {})}
      />
      <figcaption>
        {isLarge ? (
          <Tools>
            <Button onPress={() => shown.current?.magnify(CLOSER)}>Closer</Button>
            <Button onPress={() => shown.current?.magnify(1 / CLOSER)}>Farther</Button>
            <Button onPress={() => shown.current?.fit()}>Whole sheet</Button>
            <Soft role="status">{says}</Soft>
          </Tools>
        ) : (
          <Soft role="status">{says}</Soft>
        )}
      </figcaption>
    </Figure>
  );
}

/** The viewer with what this application asks of it. */
class Sheet {
  private readonly viewer: DxfViewer;
  private isEnded = false;

  constructor(box: HTMLElement) {
    this.viewer = new DxfViewer(box, {
      autoResize: true,
      clearColor: new Color(PAPER),
      colorCorrection: true,
      antialias: true,
    });
  }

  /** @returns width and height of what is drawn */
  async load(url: string): Promise<string> {
    await this.viewer.Load({
      url,
      fonts: [fontUrl, extendedFontUrl, greekFontUrl],
      workerFactory: () =>
        new Worker(new URL('../workers/dxf.worker.ts', import.meta.url), { type: 'module' }),
    });
    if (this.isEnded) return '';
    this.fit();
    const bounds = this.viewer.GetBounds();
    if (!bounds) return 'There is nothing on this sheet.';
    const length = (from: number, to: number): string => Number((to - from).toPrecision(4)).toString();
    return `${length(bounds.minX, bounds.maxX)} × ${length(bounds.minY, bounds.maxY)} units`;
  }

  fit(): void {
    const bounds = this.viewer.GetBounds();
    const { x, y } = this.viewer.GetOrigin();
    if (bounds) this.viewer.FitView(bounds.minX - x, bounds.maxX - x, bounds.minY - y, bounds.maxY - y, 0.03);
    this.viewer.Render();
  }

  magnify(by: number): void {
    const camera = this.viewer.GetCamera();
    this.viewer.SetView(camera.position, ((camera.right - camera.left) / camera.zoom) * by);
    this.viewer.Render();
  }

  /** By parts of what is visible. */
  move(right: number, up: number): void {
    const camera = this.viewer.GetCamera();
    const width = (camera.right - camera.left) / camera.zoom;
    const { x, y, z } = camera.position;
    this.viewer.SetView(new Vector3(x + right * width, y + up * width, z), width);
    this.viewer.Render();
  }

  end(): void {
    this.isEnded = true;
    this.viewer.Destroy();
  }
}

const Tools = styled.div`
  display: flex;
  gap: 8px;
  align-items: center;
`;
