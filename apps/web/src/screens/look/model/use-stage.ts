import type { SceneAnswer, SceneCamera } from '@stem-trace/contract';
import { useEffect, useRef, useState } from 'react';
import type { LookMesh } from './look-mesh.js';
import { LookStage } from './look-stage.js';

/** A stage for a scene, with the meshes that there are so far; who gets another picture looks at it from where they looked. */
export function useStage(
  box: React.RefObject<HTMLDivElement | null>,
  scene: SceneAnswer,
  loaded: readonly (LookMesh | undefined)[],
  isComing = false,
): LookStage | undefined {
  const [stage, setStage] = useState<LookStage>();
  const camera = useRef<SceneCamera>(undefined);
  useEffect(() => {
    if (!box.current) return undefined;
    const made = new LookStage(box.current, scene.meshes);
    if (camera.current) made.lookFrom(camera.current);
    setStage(made);
    return () => {
      camera.current = made.camera();
      made.end();
    };
  }, [box, scene]);
  useEffect(() => stage?.put(loaded, isComing), [stage, loaded, isComing]);
  return stage;
}
