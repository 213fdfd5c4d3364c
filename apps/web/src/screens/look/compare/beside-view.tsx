/** Both models side by side; whoever turns one turns the other. */
import { useEffect, useMemo, useRef } from 'react';
import styled from 'styled-components';
import { PictureFrame } from '../../../pictures/picture-frame.js';
import { Mono } from '../../../ui/controls.js';
import type { LookStage } from '../model/look-stage.js';
import { looksAlike } from '../model/looks-alike.js';
import { useStage } from '../model/use-stage.js';
import { looksOf, SAME_OPACITY, type UseLook } from './appearance.js';
import type { ComparedSides } from './over-view.js';

export interface BesideViewProps extends ComparedSides {
  readonly item: string;
  readonly against: string;
}

export function BesideView(props: BesideViewProps): React.JSX.Element {
  const { first, second, found, chosen, showsSame, item, against } = props;
  const [left, right] = [useRef<HTMLDivElement>(null), useRef<HTMLDivElement>(null)];
  const stages = [
    useStage(left, first.scene, first.loaded),
    useStage(right, second.scene, second.loaded),
  ] as const;
  const looks = useMemo(() => [looksOf(found, 'first'), looksOf(found, 'second')] as const, [found]);
  useShown(stages[0], looks[0], { chosen: chosen?.firstNode, showsSame });
  useShown(stages[1], looks[1], { chosen: chosen?.secondNode, showsSame });
  useOneCamera(stages[0], stages[1]);
  useEffect(() => {
    // Where it is in the one it is looked at in the other as well.
    const stage = chosen?.firstNode === undefined ? stages[1] : stages[0];
    if (chosen) stage?.fitWithin();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only what is chosen moves the picture
  }, [chosen]);
  return (
    <Two>
      {[[left, item] as const, [right, against] as const].map(([box, name], at) => (
        <figure key={at}>
          <figcaption>
            <Mono>{name}</Mono>
          </figcaption>
          <PictureFrame
            ref={box}
            data-large
            role="img"
            aria-label={`${name} in three dimensions`}
            tabIndex={0}
          />
        </figure>
      ))}
    </Two>
  );
}

function useShown(
  stage: LookStage | undefined,
  looks: ReadonlyMap<number, UseLook>,
  { chosen, showsSame }: { readonly chosen: number | undefined; readonly showsSame: boolean },
): void {
  useEffect(() => {
    stage?.show({
      selected: new Set(chosen === undefined ? [] : [chosen]),
      opacityOf: (node) => (looks.get(node)?.kind === 'same' && showsSame ? SAME_OPACITY * 2 : 1),
      colourOf: (node) => looks.get(node)?.colour,
    });
  }, [stage, looks, chosen, showsSame]);
}

function useOneCamera(one: LookStage | undefined, other: LookStage | undefined): void {
  useEffect(() => {
    if (!one || !other) return undefined;
    const follow = (leader: LookStage, follower: LookStage) => (): void => {
      const camera = leader.camera();
      // Whoever follows is drawn as well, and leads nobody anywhere else.
      if (!looksAlike(camera, follower.camera())) follower.lookFrom(camera);
    };
    other.lookFrom(one.camera());
    const ends = [one.onDrawn(follow(one, other)), other.onDrawn(follow(other, one))];
    return () => {
      for (const end of ends) end();
    };
  }, [one, other]);
}

const Two = styled.div`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 8px;
  figure {
    margin: 0;
    min-height: 0;
    display: flex;
    flex-direction: column;
    gap: 4px;
  }
`;
