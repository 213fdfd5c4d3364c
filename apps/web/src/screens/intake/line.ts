import styled from 'styled-components';

/** Controls beside one another. */
export const Line = styled.div`
  display: flex;
  gap: 14px;
  align-items: end;
  flex-wrap: wrap;
`;
