// What every page of somebody who judges in a round has.

import { Link } from "react-router";
import styled from "styled-components";
import type { RoundScene } from "../../realtime/use-round";
import { ink } from "../../theme/theme";

export const Page = styled.main`
  min-height: 100dvh;
  display: grid;
  grid-template-rows: auto 1fr auto;
  background: ${ink.sheet};
  & > header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 1rem;
    min-height: 56px;
    padding: 0 1rem;
    background: ${ink.paper};
    border-bottom: 1.5px solid ${ink.text};
    h1 {
      font-size: 1.25rem;
    }
  }
`;
export const Middle = styled.section`
  display: grid;
  align-content: center;
  justify-items: center;
  gap: 1.25rem;
  padding: 1rem;
  text-align: center;
  max-width: 44rem;
  width: 100%;
  margin: 0 auto;
  h2 {
    font-size: 1.5rem;
    text-wrap: balance;
  }
`;
/** What to do now, and how far the others are. */
export function listenSaid(scene: RoundScene): string {
  if (scene.plays === 0 && !scene.each_plays) return "Wait for the sound.";
  const all = Math.max(scene.here, scene.answered);
  return `Listen. ${scene.answered} of ${all} have answered.`;
}

export function Gone() {
  return (
    <Page data-stand="on">
      <header>
        <h1>A round</h1>
      </header>
      <Middle>
        <h2>This round is over.</h2>
        <Link to="/">To the first page</Link>
      </Middle>
    </Page>
  );
}
