import styled from 'styled-components';

/** What pictures lie on: neutral grey, so that colours can be judged. */
export const Sheet = styled.div`
  position: relative;
  min-height: 0;
  min-width: 0;
  background: #808080;
  overflow: hidden;
  touch-action: none;
  .osd {
    position: absolute;
    inset: 0;
  }
`;
