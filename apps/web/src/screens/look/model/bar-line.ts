import styled from 'styled-components';
import { colour } from '../../../ui/theme.js';

/** Tools in a row, each beside what names it: there is little room above a picture. */
export const ToolLine = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
  label {
    display: inline-flex;
    flex-direction: row;
    align-items: center;
    gap: 6px;
  }
`;

/** What is done with the picture, over it. */
export const BarLine = styled(ToolLine)`
  grid-column: 1 / -1;
  select {
    max-width: 150px;
  }
`;

/** What a picture in three dimensions stands in, turned or standing still. */
export const PictureGround = styled.div`
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.raised};
  overflow: hidden;
  canvas {
    position: absolute;
    inset: 0;
  }
`;
