import styled from "styled-components";
import { ink, phone, tablet } from "../../theme/theme";

/** The working screen: plan, water and sounding side by side, the strings below. */
export const Screen = styled.main`
  display: grid;
  min-width: 0;
  height: calc(100dvh - 56px);
  min-height: 40rem;
  grid-template:
    "plan water side" minmax(0, 1fr) "dock dock dock" auto / 16.5rem minmax(0, 1fr)
    20rem;
  /* To be read from a music stand: the working part alone, larger. */
  &[data-stand="on"] {
    height: 100dvh;
    grid-template-columns: 0 minmax(0, 1fr) 20rem;
    & > [data-area="plan"],
    [data-group="help"] {
      display: none;
    }
    h1 {
      font-size: 2.25rem;
    }
    [data-reading] strong {
      font-size: 5rem;
    }
    [data-turn] {
      min-height: 6rem;
      font-size: 1.375rem;
    }
  }
  ${tablet} {
    grid-template: "water water" minmax(0, 1fr) "side plan" auto "dock dock" auto / 1fr 1fr;
    &[data-stand="on"] {
      grid-template-columns: 1fr 0;
    }
  }
  ${phone} {
    display: flex;
    flex-direction: column;
    height: auto;
    min-height: calc(100dvh - 56px);
    &[data-stand="on"] {
      min-height: 100dvh;
    }
  }
`;
export const PlanArea = styled.aside`
  grid-area: plan;
  padding: 1.25rem 1rem 1rem 1.25rem;
  display: flex;
  flex-direction: column;
  gap: 0.75rem;
  border-right: 1px solid ${ink.line};
  & > :last-child {
    margin-top: auto;
  }
  & > ol {
    flex: 0 1 auto;
  }
  overflow: hidden;
  ${tablet} {
    border-right: 0;
    border-top: 1px solid ${ink.line};
  }
  ${phone} {
    order: 6;
    border-top: 1.5px solid ${ink.text};
    padding: 1rem;
    overflow: visible;
  }
`;
export const WaterArea = styled.section`
  grid-area: water;
  position: relative;
  display: flex;
  flex-direction: column;
  min-width: 0;
  background: ${ink.sheet};
  ${phone} {
    order: 1;
    min-height: 20rem;
    flex: 1;
  }
`;
export const Heading = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0.5rem 1.5rem;
  padding: 1.25rem 1.5rem 0;
  min-height: 7rem;
  p {
    max-width: 34rem;
    color: ${ink.quiet};
  }
  h1 {
    margin-bottom: 0.25rem;
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
    align-content: start;
    min-height: 9.4rem;
    padding: 0.6rem 1rem 0;
    gap: 0.2rem;
    h1 {
      font-size: 1.25rem;
      margin: 0;
    }
    p {
      font-size: 0.9375rem;
      line-height: 1.3;
    }
  }
`;
export const Basin = styled.div`
  position: relative;
  flex: 1;
  min-height: 7rem;
`;
/** Something to be said before going on, between the words and the water. */
export const Question = styled.section`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.5rem 1rem;
  margin: 0.6rem 1.5rem 0;
  padding: 0.6rem 0;
  border-top: 1.5px solid ${ink.text};
  border-bottom: 1px solid ${ink.line};
  p {
    flex: 1;
    min-width: 12rem;
    font-weight: 600;
  }
  [role="radiogroup"] {
    min-width: 15rem;
  }
  ${phone} {
    margin: 0.5rem 1rem 0;
  }
`;
export const Over = styled.div`
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  padding: 1rem;
  text-align: center;
  color: ${ink.quiet};
  font-size: 1.0625rem;
  pointer-events: none;
  & > * {
    pointer-events: auto;
    background: ${ink.sheet}; /* the waterline does not run through words */
  }
`;
export const SideArea = styled.aside`
  grid-area: side;
  padding: 0.8rem 1.25rem 1rem;
  display: flex;
  flex-direction: column;
  gap: 0.5rem;
  overflow: auto;
  border-left: 1px solid ${ink.line};
  ${tablet} {
    border-left: 0;
    border-top: 1px solid ${ink.line};
  }
  /* On a phone its groups stand apart: sounding above the pegs, the judgement right below them. */
  ${phone} {
    display: contents;
    & > * {
      order: 5;
      padding: 0.6rem 1rem;
    }
    & > [data-group="sound"] {
      order: 2;
      border-top: 1.5px solid ${ink.text};
    }
    & > [data-group="judge"] {
      order: 4;
    }
  }
`;
export const Group = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 0.35rem;
  align-content: start;
  h2 {
    font-size: 1rem;
    display: flex;
    justify-content: space-between;
    align-items: center;
  }
  h2 button {
    margin: -0.6rem -0.5rem -0.6rem 0;
    padding: 0.2rem 0.5rem;
    font-size: 0.9375rem;
    gap: 0.4rem;
  }
`;
/** The solid press first, then three smaller ones; side by side on a phone. */
export const Sounds = styled.div`
  button {
    font-size: 0.9375rem;
    white-space: nowrap;
  }
  & > :not(:first-child) {
    font-size: 0.875rem;
  }
  button[aria-pressed="true"] {
    border-color: ${ink.text};
    border-width: 2.5px;
  }
  display: grid;
  gap: 0.4rem;
  grid-template-columns: minmax(0, 0.85fr) minmax(0, 1.15fr);
  & > :first-child,
  & > :last-child:nth-child(even) {
    grid-column: 1 / -1;
  }
  button {
    padding: 0.3rem 0.5rem;
    gap: 0.3rem;
  }
  ${phone} {
    grid-template-columns: repeat(4, minmax(0, 1fr));
    & > :last-child:nth-child(even) {
      grid-column: auto;
    }
    button {
      justify-content: center;
      padding: 0.3rem 0.2rem;
      white-space: normal;
      line-height: 1.15;
      text-align: center;
    }
  }
`;
/** Judging and going on: always in reach, whatever stands above has to scroll. */
export const Push = styled.div`
  margin-top: auto;
  position: sticky;
  bottom: -1rem;
  margin-bottom: -1rem;
  padding: 0.2rem 0 1rem;
  background: ${ink.paper};
  ${phone} {
    && {
      position: static;
      margin-bottom: 0;
      padding: 0.6rem 1rem;
    }
  }
  display: grid;
  gap: 0.4rem;
`;
export const Dock = styled.section`
  grid-area: dock;
  display: grid;
  grid-template-columns: minmax(16rem, 2fr) minmax(0, 4fr);
  gap: 1.5rem;
  padding: 0.75rem 1.25rem;
  background: ${ink.shade};
  border-top: 1.5px solid ${ink.text};
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
    gap: 0.75rem;
  }
  ${phone} {
    order: 3;
    padding: 0.6rem 1rem;
    gap: 0.5rem;
  }
`;
export const TurnPad = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
  align-content: start;
  & > [role="radiogroup"],
  & > [data-wide] {
    grid-column: 1 / -1;
  }
  & > button {
    font-size: 1.125rem;
  }
`;
export const Strings = styled.div<{ $columns: number }>`
  display: grid;
  grid-template-columns: repeat(${({ $columns }) => $columns}, minmax(0, 1fr));
  gap: 0.6rem;
  ${phone} {
    gap: 0.3rem;
    grid-template-columns: repeat(
      ${({ $columns }) => ($columns <= 6 ? $columns : $columns === 8 ? 4 : 5)},
      minmax(0, 1fr)
    );
  }
`;
