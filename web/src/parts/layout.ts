// Blocks that more than one view lays out alike.

import styled from "styled-components";

export const Centre = styled.main`
  display: grid;
  place-items: center;
  padding: 2rem;
  min-height: 60vh;
`;
export const Choices = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem;
  justify-content: flex-end;
`;
