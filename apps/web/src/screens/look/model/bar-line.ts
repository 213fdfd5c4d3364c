import styled from 'styled-components';

/** What is done with the picture, over it. */
export const BarLine = styled.div`
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
  /* Beside what they name: there is little room above the picture. */
  label {
    display: inline-flex;
    flex-direction: row;
    align-items: center;
    gap: 6px;
  }
  select {
    max-width: 150px;
  }
`;
