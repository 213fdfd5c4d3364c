/** What one file holds, in three dimensions. */
import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { Soft } from '../ui/controls.js';
import { Figure, PictureFrame } from './picture-frame.js';
import { loadMesh } from './solid-model.js';
import { Stage } from './solid-stage.js';

export default function MeshPicture({
  item,
  mesh,
}: {
  readonly item: string;
  /** Address of a binary glTF. */
  readonly mesh: string;
}): React.JSX.Element {
  const model = useQuery({
    queryKey: ['mesh at', mesh],
    queryFn: ({ signal }) => loadMesh(mesh, signal),
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const box = useRef<HTMLDivElement>(null);
  const { data } = model;
  useEffect(() => {
    if (!box.current || !data) return undefined;
    const stage = new Stage(box.current, data);
    return () => stage.end();
  }, [data]);
  if (model.isPending) return <Soft role="status">Making the picture …</Soft>;
  if (!data) return <Soft>No geometry in this file itself.</Soft>;
  return (
    <Figure>
      <PictureFrame ref={box} role="img" aria-label={`${item} in three dimensions`} />
    </Figure>
  );
}
