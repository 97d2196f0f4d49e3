import type { ReactNode } from "react";
import styled from "styled-components";
import { ink } from "../theme/theme";

/** A caution or a trouble: an amber bar beside plain words. */
export const Notice = styled.p.attrs({ role: "status" })<{ children?: ReactNode }>`
  border-left: 4px solid ${ink.amber};
  padding: 0.15rem 0 0.15rem 0.75rem;
  color: ${ink.amber};
  font-weight: 550;
`;
