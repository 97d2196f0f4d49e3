// What all pages of a studio share: its name, and the way between them.

import { NavLink, Outlet, useParams } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { ink, phone } from "../../theme/theme";
import { dayAndTime } from "../../words/formats";
import { Buttons, Main } from "./layout";
import { type Studio, useChange, useStudio } from "./use-studio";

const PAGES = [
  { path: "", words: "Pupils" },
  { path: "steps", words: "Steps" },
  { path: "exercises", words: "Exercises" },
  { path: "rounds", words: "Rounds" },
  { path: "concerts", words: "Concerts" },
  { path: "shelf", words: "Shelf" },
  { path: "studio", words: "Studio" },
] as const;

const Top = styled.section`
  background: ${ink.sheet};
  border-bottom: 1.5px solid ${ink.line};
  padding: 0 1.5rem;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 1.5rem;
  p {
    font-weight: 650;
  }
  nav {
    display: flex;
    flex-wrap: wrap;
    gap: 0 0.25rem;
  }
  nav a {
    flex: none;
    display: flex;
    align-items: center;
    min-height: 48px;
    padding: 0 0.8rem;
    text-decoration: none;
    border-bottom: 3px solid transparent;
    color: ${ink.quiet};
    font-weight: 600;
  }
  nav a.active {
    color: ${ink.text};
    border-bottom-color: ${ink.water};
  }
  ${phone} {
    padding: 0.4rem 1rem 0;
    nav {
      margin: 0 -0.6rem;
    }
    nav a {
      padding: 0 0.6rem;
    }
  }
  @media print {
    display: none;
  }
`;

export function StudioFrame() {
  const { studio: id = "" } = useParams();
  const studio = useStudio(id);
  if (studio.error)
    return (
      <Main>
        <Notice>{studio.error.message}</Notice>
      </Main>
    );
  if (!studio.data) return <Main />;
  return (
    <div>
      <Top aria-label="Studio">
        <p>{studio.data.name}</p>
        <nav aria-label="Pages of the studio">
          {PAGES.map(({ path, words }) => (
            <NavLink key={path} to={`/teach/${id}/${path}`.replace(/\/$/, "")} end={path === ""}>
              {words}
            </NavLink>
          ))}
        </nav>
      </Top>
      {studio.data.ending ? <Ending studio={studio.data} /> : null}
      <Outlet context={studio.data} />
    </div>
  );
}

const Band = styled.section`
  padding: 1rem 1.5rem 0;
  display: grid;
  gap: 0.75rem;
`;

/** A studio that is to be erased says so on every page. */
function Ending({ studio }: { studio: Studio }) {
  const path = { params: { path: { studio_id: studio.id } } };
  const keep = useChange(() => said(api.DELETE("/api/studios/{studio_id}/ending", path)));
  const agree = useChange(
    () => said(api.POST("/api/studios/{studio_id}/ending", path)),
    () => location.assign("/teach"),
  );
  const { ending } = studio;
  if (!ending) return null;
  const who = ending.asked_by_you ? "You" : (ending.asked_by ?? "Somebody who has left");
  return (
    <Band aria-label="To be erased">
      <Notice>
        {who} asked to erase this studio. It goes on {dayAndTime(ending.at)}, or as soon as a second
        person who teaches here agrees.
      </Notice>
      {(keep.error ?? agree.error) ? <Notice>{(keep.error ?? agree.error)?.message}</Notice> : null}
      <Buttons>
        <Button weight="solid" onPress={() => keep.mutate(undefined)}>
          Keep the studio
        </Button>
        {ending.asked_by_you ? null : (
          <Button onPress={() => agree.mutate(undefined)}>Agree, erase it now</Button>
        )}
      </Buttons>
    </Band>
  );
}
