import styled from "styled-components";
import { ink, phone, tablet } from "../../theme/theme";

/** The working screen, from top to bottom: the plan, the water, the instrument, the hands. */
export const Screen = styled.main`
  display: grid;
  min-width: 0;
  height: calc(100dvh - 56px);
  min-height: 40rem;
  grid-template: "top" auto "water" minmax(auto, 1fr) "strings" auto "dock" auto / minmax(0, 1fr);
  /* To be read from a music stand: the working part alone, larger. */
  &[data-stand="on"] {
    height: 100dvh;
    [aria-label="The plan"],
    [data-help] {
      display: none;
    }
    h1 {
      font-size: 2.25rem;
    }
    [data-reading] strong {
      font-size: 4.5rem;
    }
    [data-turn] {
      min-height: 6rem;
      font-size: 1.375rem;
    }
  }
  ${phone} {
    display: flex;
    flex-direction: column;
    height: auto;
    min-height: calc(100dvh - 56px);
    &[data-stand="on"] {
      min-height: 100dvh;
      [data-turn] {
        min-height: 64px;
      }
      h1 {
        font-size: 1.25rem;
      }
      [data-reading] strong {
        font-size: 3rem;
      }
    }
  }
`;
export const Top = styled.div`
  grid-area: top;
  display: flex;
  align-items: center;
  gap: 0.5rem 1.25rem;
  padding: 0.4rem 1.25rem;
  min-width: 0;
  flex-wrap: wrap;
  border-bottom: 1px solid ${ink.line};
  & > :first-child {
    flex: 1 1 18rem;
    min-width: 0;
  }
  ${tablet} {
    & > :first-child {
      flex: 1 0 100%;
    }
  }
  ${phone} {
    padding: 0.1rem 0.5rem;
    gap: 0.25rem;
    flex: none;
    & > :first-child {
      flex: 1 1 3.5rem;
    }
    &[data-checks] > :first-child {
      flex-basis: 100%;
      order: 1;
    }
  }
`;
export const Free = styled.p`
  font-weight: 650;
`;
export const Help = styled.div`
  display: flex;
  align-items: center;
  gap: 0.6rem;
  color: ${ink.quiet};
  font-weight: 600;
  ${phone} {
    flex: none;
    width: 6.6rem;
    label {
      display: none;
    }
    & > * {
      width: 100%;
    }
    button {
      padding: 0.2rem 0.5rem;
      font-size: 0.9375rem;
      gap: 0.3rem;
    }
  }
`;
export const Aside = styled.div`
  display: flex;
  flex: none;
  gap: 0.1rem;
  button {
    padding: 0.3rem 0.5rem;
    font-size: 0.9375rem;
    gap: 0.4rem;
    white-space: nowrap;
  }
  button[aria-pressed="true"] {
    border-color: ${ink.text};
  }
  ${phone} {
    button {
      padding: 0.3rem 0.35rem;
      font-size: 0.875rem;
    }
    button[data-key] {
      display: none;
    }
    [data-stand="on"] & button[data-key="stand"] {
      display: flex;
    }
  }
`;
export const WaterArea = styled.section`
  grid-area: water;
  position: relative;
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 12rem;
  background: ${ink.sheet};
  ${phone} {
    flex: 1 0 auto;
    min-height: 0;
  }
`;
export const Heading = styled.div`
  position: relative;
  z-index: 1;
  flex: none;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0.25rem 1.5rem;
  padding: 0.9rem 1.5rem 0;
  min-height: 5.6rem;
  p {
    max-width: 46rem;
    color: ${ink.quiet};
    font-size: 1.0625rem;
    line-height: 1.35;
  }
  h1 {
    margin-bottom: 0.2rem;
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
    align-content: start;
    min-height: 0;
    padding: 0.35rem 0.9rem 0;
    gap: 0;
    h1 {
      font-size: 1.1875rem;
      margin: 0;
    }
    p {
      font-size: 0.9375rem;
      line-height: 1.25;
    }
    p[data-first] {
      display: flex;
      gap: 0.75rem;
      align-items: center;
      span {
        flex: 1;
        min-width: 0;
        overflow: hidden;
        text-overflow: ellipsis;
        white-space: nowrap;
      }
      button {
        all: unset;
        padding: 0.95rem 0;
        margin: -0.95rem 0;
        text-decoration: underline dotted;
        cursor: pointer;
      }
      button[data-focus-visible] {
        outline: 2.5px solid ${ink.water};
      }
    }
  }
`;
export const Basin = styled.div`
  position: relative;
  flex: 1;
  display: grid;
  min-height: 5rem;
  ${phone} {
    min-height: 140px;
    &[data-many] {
      min-height: 110px; /* two kinds of strings, and a choice between them */
    }
    &[data-low] {
      min-height: 4.1rem; /* more to press stands below, and what is read lies on the water */
      margin-top: -3.1rem;
    }
  }
`;
/** Something to be said before going on, between the words and the water. */
export const Question = styled.section`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.3rem 1rem;
  margin: 0.4rem 1.5rem 0;
  padding: 0.4rem 0;
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
    margin: 0.3rem 0.9rem 0;
  }
`;
export const Over = styled.div`
  position: relative; /* what is long makes the water taller: it covers nothing else */
  display: grid;
  place-items: center;
  padding: 0.6rem 1rem;
  text-align: center;
  color: ${ink.quiet};
  font-size: 1.0625rem;
  pointer-events: none;
  & > * {
    pointer-events: auto;
    background: ${ink.sheet}; /* the waterline does not run through words */
  }
  ${phone} {
    padding: 0.2rem 0.9rem;
    font-size: 0.9375rem;
    line-height: 1.3;
  }
`;
export const StringsArea = styled.section`
  grid-area: strings;
  --under: ${ink.wood};
  padding: 0.5rem 1rem 0.3rem;
  background: ${ink.wood};
  border-top: 1.5px solid ${ink.text};
  min-width: 0;
  ${phone} {
    flex: none;
    padding: 0.2rem 0.4rem 0;
  }
`;
/** What the hands do: the peg, the strings, the judgement, and going on. */
export const Dock = styled.section`
  grid-area: dock;
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1.5rem;
  padding: 0.7rem 1.25rem;
  border-top: 1px solid ${ink.line};
  align-items: start;
  /* Wide letters or a narrow window: what has no room goes below. */
  & > * {
    flex: 1.1 1 min(100%, 17rem);
    min-width: 0;
  }
  & > :last-child {
    flex: 0.6 1 min(100%, 9rem);
  }
  ${phone} {
    flex: none;
    align-items: end;
    gap: 0.35rem 0.5rem;
    padding: 0.4rem 0.75rem 0.2rem;
    & > [data-group="hand"],
    & > [data-group="chord"],
    & > [data-group="sound"] {
      flex-basis: 100%;
    }
    & > [data-nothing] {
      display: none;
    }
    & > * {
      flex-basis: min(100%, 15rem);
    }
    & > :last-child {
      flex-basis: 6.5rem;
    }
  }
`;
export const TurnPad = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.45rem;
  align-content: start;
  & > [role="radiogroup"],
  & > [data-wide] {
    grid-column: 1 / -1;
  }
  & > button {
    font-size: 1.125rem;
  }
  ${phone} {
    gap: 0.35rem;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    & > button {
      grid-column: span 2;
    }
    & > [role="radiogroup"] {
      grid-column: span 2;
    }
    & > [role="radiogroup"] > * {
      padding: 0;
      font-size: 0.875rem;
    }
  }
`;
/** The solid press first, then the smaller ones. */
export const Sounds = styled.div`
  display: grid;
  grid-template-columns: repeat(6, minmax(0, 1fr));
  gap: 0.45rem;
  align-content: start;
  button {
    grid-column: span 2;
    padding: 0.25rem 0.5rem;
    gap: 0.3rem;
    font-size: 0.9375rem;
    line-height: 1.15;
  }
  & > :first-child {
    grid-column: 1 / -1;
    font-size: 1.125rem;
    padding: 0.4rem 0.9rem;
  }
  button[aria-pressed="true"] {
    border-color: ${ink.text};
    border-width: 2.5px;
  }
  ${phone} {
    gap: 0.35rem;
    display: flex;
    flex-wrap: wrap;
    & > :first-child {
      flex: 4 1 6.3rem;
      font-size: 0.9375rem;
      min-height: 48px;
    }
    & > * {
      flex: 1 1 3rem;
      justify-content: center;
      padding: 0.2rem 0.1rem;
      text-align: center;
      font-size: 0.8125rem;
    }
    & > [data-alone] {
      display: none; /* a string is pressed itself */
    }
  }
`;
/** Going on. */
export const On = styled.div`
  display: grid;
  & > button {
    font-size: 1.1875rem;
  }
  ${phone} {
    & > button {
      min-height: 52px;
      min-width: 6.5rem;
      justify-content: center;
      text-align: center;
    }
  }
`;
