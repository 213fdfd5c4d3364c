import { Handle, Position, type Node, type NodeProps } from '@xyflow/react';
import { Minus, Plus } from 'lucide-react';
import { memo } from 'react';
import styled from 'styled-components';
import { Mono, Soft } from '../../../ui/controls.js';
import { AttentionMark, StateGlyph } from '../../../ui/glyphs.js';
import { colour, font } from '../../../ui/theme.js';
import type { MapEdge, MapNode } from './map-graph.js';
import { sayGap } from '../gap.js';

export type PlateNode = Node<
  {
    readonly of: MapNode;
    /** The one link of a plate in a frame, whose quantity it says itself. */
    readonly link: MapEdge | undefined;
    readonly onFold: (id: string) => void;
  },
  'plate'
>;
export type FrameNode = Node<Record<string, never>, 'frame'>;
/** Around plates that hang at the same one alone. */
export const MapFrame = memo(function MapFrame(): React.JSX.Element {
  return (
    <Frame>
      <Handle type="target" position={Position.Left} />
      <Handle type="source" position={Position.Right} />
    </Frame>
  );
});

/** An item on the map. */
export const MapPlate = memo(function MapPlate({
  data: { of, link, onFold },
}: NodeProps<PlateNode>): React.JSX.Element {
  const { item, role, isFolded, canFold } = of;
  return (
    <Plate data-role={role} data-gap={item.isGap || item.isHidden || undefined} title={item.name}>
      <Handle type="target" position={Position.Left} />
      <div>
        <StateGlyph state={item.state} />
        <Mono>{item.isHidden ? 'not visible' : item.number}</Mono>
        {item.isGap ? <AttentionMark>{sayGap(item)}</AttentionMark> : null}
        {link?.isBehind && !link.isPaper ? <AttentionMark>behind</AttentionMark> : null}
        {link === undefined || link.isPaper ? null : (
          <Quantity data-behind={link.isBehind || undefined}>×{link.quantity}</Quantity>
        )}
      </div>
      {role === 'paper' ? null : <Soft>{item.name}</Soft>}
      {canFold ? (
        <Fold
          type="button"
          tabIndex={-1}
          aria-label={isFolded ? `Unfold ${item.number}` : `Fold ${item.number}`}
          onClick={(event) => {
            event.stopPropagation();
            onFold(of.id);
          }}
        >
          {isFolded ? <Plus size={11} /> : <Minus size={11} />}
        </Fold>
      ) : null}
      <Handle type="source" position={Position.Right} />
    </Plate>
  );
});

const Plate = styled.div`
  height: 100%;
  box-sizing: border-box;
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 1px;
  padding: 3px 8px;
  border: 1px solid ${colour.lineStrong};
  border-radius: 3px;
  background: ${colour.raised};
  color: ${colour.ink};
  font-size: 12px;
  > div {
    display: flex;
    align-items: center;
    gap: 6px;
    white-space: nowrap;
    overflow: hidden;
  }
  > span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 11px;
  }
  &[data-role='focus'] {
    border: 2px solid ${colour.petrol};
    background: ${colour.petrolSoft};
  }
  &[data-role='paper'] {
    border-style: dashed;
  }
  &[data-gap] {
    background: ${colour.copperSoft};
  }
`;
const Quantity = styled.span`
  margin-left: auto;
  font-family: ${font.mono};
  font-size: 10px;
  color: ${colour.petrol};
  &[data-behind] {
    color: ${colour.copper};
  }
`;
const Frame = styled.div`
  height: 100%;
  box-sizing: border-box;
  border: 1px solid ${colour.line};
  border-radius: 5px;
`;
const Fold = styled.button`
  position: absolute;
  /* As large as a finger wants it, however small the plate is. */
  right: -13px;
  top: calc(50% - 12px);
  width: 24px;
  height: 24px;
  z-index: 1;
  padding: 0;
  display: grid;
  place-items: center;
  border: 1px solid ${colour.lineStrong};
  border-radius: 50%;
  background: ${colour.raised};
  color: ${colour.ink};
`;
