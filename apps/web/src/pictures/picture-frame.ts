import styled from 'styled-components';
import { colour } from '../ui/theme.js';

export const Figure = styled.figure`
  display: flex;
  flex-direction: column;
  gap: 4px;
  margin: 0;
  min-height: 0;
  flex: 1;
`;

/** What a picture is drawn in: as high as the margin has room for, or all there is where it is looked at closely. */
export const PictureFrame = styled.div`
  position: relative;
  height: 212px;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.raised};
  overflow: hidden;
  &[data-large] {
    flex: 1;
    height: auto;
    min-height: 0;
  }
  canvas {
    display: block;
  }
`;

/** What lies over a picture, in its pixels; only what is drawn there catches the pointer. */
export const Over = styled.svg`
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: hidden;
  /* Some pictures are put in after it. */
  z-index: 1;
  pointer-events: none;
  & > * {
    pointer-events: auto;
  }
`;
