/** An item's picture, whatever its file is; each kind brings its code when first needed. */
import type { BesideRow, ItemView, LensText } from '@stem-trace/contract';
import type { FileFormat } from '@stem-trace/core';
import { lazy, Suspense } from 'react';
import styled from 'styled-components';
import { addressOf } from '../api/client.js';
import { Soft } from '../ui/controls.js';
import { canDrawSolids, NO_SOLIDS } from './can-draw-solids.js';
import { Figure, PictureFrame } from './picture-frame.js';

const SolidPicture = lazy(() => import('./solid-picture.js'));
const MeshPicture = lazy(() => import('./mesh-picture.js'));
const DrawingPicture = lazy(() => import('./drawing-picture.js'));
const PagePicture = lazy(() => import('./page-picture.js'));
const TextPicture = lazy(() => import('./text-picture.js'));
const DocumentPicture = lazy(() => import('./document-picture.js'));

export interface FilePictureProps {
  /** What it is of: `NUMBER@B/3`, or the path of a file that has not come in yet. */
  readonly item: string;
  /** Address of the file's content. */
  readonly file: string;
  readonly isLarge: boolean;
  /** What it shows besides; drawings that a drawing draws on. */
  readonly beside?: readonly BesideRow[];
}

const BY_FORMAT: Readonly<
  Record<
    FileFormat,
    | ((
        props: FilePictureProps & { readonly lens: LensText; readonly saysMass: boolean },
      ) => React.JSX.Element)
    | null
  >
> = {
  step: (props) =>
    canDrawSolids() ? (
      <SolidPicture {...props} />
    ) : (
      <Soft>{NO_SOLIDS} Look shows pictures that stand still.</Soft>
    ),
  dxf: (props) => <DrawingPicture {...props} />,
  pdf: (props) => <PagePicture {...props} />,
  image: (props) => <ImagePicture {...props} />,
  workbook: officePicture,
  'text document': officePicture,
  table: (props) => <TextPicture {...props} />,
  text: (props) => <TextPicture {...props} />,
  other: null,
};

/** In the margin the words of it are enough. */
function officePicture(props: FilePictureProps): React.JSX.Element {
  return props.isLarge ? <DocumentPicture {...props} /> : <TextPicture {...props} />;
}

export interface PictureProps {
  readonly item: ItemView;
  readonly lens: LensText;
  readonly isLarge?: boolean;
}

export function hasPicture(item: ItemView): boolean {
  return BY_FORMAT[item.format] !== null;
}

export function Picture({ item, lens, isLarge = false }: PictureProps): React.JSX.Element | null {
  const draw = BY_FORMAT[item.format];
  if (!draw) return null;
  const reference = `${item.number}@${item.shown}`;
  return (
    <Suspense fallback={<Soft>Loading the picture …</Soft>}>
      <Holder key={`${reference} ${lens}`} data-large={isLarge || undefined}>
        {draw({
          item: reference,
          file: addressOf('/api/file', { item: reference }),
          lens,
          isLarge,
          beside: item.beside,
          saysMass: lacksVolume(item),
        })}
      </Holder>
    </Suspense>
  );
}

/** A file of a sheet, before it comes in; formats whose text only the store can read have no picture yet. */
export function StagedPicture({
  sheet,
  path,
  format,
}: {
  readonly sheet: string;
  readonly path: string;
  readonly format: FileFormat | null;
}): React.JSX.Element | null {
  const draw = STAGED[format ?? 'other'];
  if (!draw) return null;
  const what = format === 'step' ? '/api/staged/mesh' : '/api/staged/file';
  return (
    <Suspense fallback={<Soft>Loading the picture …</Soft>}>
      <Holder key={path}>
        {draw({
          item: path,
          file: addressOf(what, { id: sheet, path }),
          isLarge: false,
        })}
      </Holder>
    </Suspense>
  );
}

const STAGED: Readonly<Partial<Record<FileFormat, (props: FilePictureProps) => React.JSX.Element>>> = {
  step: ({ item, file }) => <MeshPicture item={item} mesh={file} />,
  dxf: (props) => <DrawingPicture {...props} />,
  pdf: (props) => <PagePicture {...props} />,
  image: (props) => <ImagePicture {...props} />,
};

function lacksVolume({ kind, properties }: ItemView): boolean {
  return kind === 'part' && !properties.some(({ name }) => name === 'volume');
}

function ImagePicture({ item, file, isLarge }: FilePictureProps): React.JSX.Element {
  return (
    <Figure>
      <PictureFrame data-large={isLarge || undefined}>
        <Whole src={file} alt={item} />
      </PictureFrame>
    </Figure>
  );
}

const Holder = styled.div`
  display: flex;
  min-height: 0;
  flex: none;
  &[data-large] {
    flex: 1;
  }
`;
const Whole = styled.img`
  width: 100%;
  height: 100%;
  object-fit: contain;
`;
