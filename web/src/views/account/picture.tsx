// A picture of a passphrase: its drawing, and its name below, for who sees it and who does not.

import styled from "styled-components";
import { ink } from "../../theme/theme";
import { DRAWINGS } from "./drawings";

const Box = styled.span`
  display: grid;
  justify-items: center;
  gap: 0.3rem;
  font-weight: 600;
  line-height: 1.15;
  svg {
    color: ${ink.text};
  }
`;

type Props = { id: string; words: string; size?: number };

export function Picture({ id, words, size = 32 }: Props) {
  const Drawing = DRAWINGS[id];
  return (
    <Box>
      {Drawing ? <Drawing size={size} strokeWidth={1.75} aria-hidden="true" /> : null}
      {words}
    </Box>
  );
}
