// Where the pupils of a studio stand: by stage, each with the step that comes next.

import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Notice } from "../../parts/notice";
import { ink, phone, tablet } from "../../theme/theme";
import { Main, Quiet } from "./layout";
import { useThisStudio } from "./use-studio";

const Stages = styled.div`
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 1.5rem 2rem;
  align-items: start;
  section {
    border-top: 3px solid ${ink.text};
    padding-top: 0.6rem;
  }
  li {
    padding: 0.35rem 0 0.6rem;
    border-bottom: 1px solid ${ink.line};
  }
  a {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    font-weight: 650;
  }
  ${tablet} {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
  }
`;

export function ClassSteps() {
  const studio = useThisStudio();
  const found = useQuery({
    queryKey: ["studio", studio.id, "steps"],
    queryFn: () =>
      said(
        api.GET("/api/studios/{studio_id}/path", { params: { path: { studio_id: studio.id } } }),
      ),
    // of a large class not all can be read at once
    refetchInterval: ({ state }) => (state.data?.unread && !state.error ? 300 : false),
  });
  const unread = found.data?.unread ?? 0;
  return (
    <Main>
      <h1>What each pupil comes to next</h1>
      {found.error ? <Notice>{found.error.message}</Notice> : null}
      {unread > 0 ? <Quiet role="status">Reading the work of {unread} more …</Quiet> : null}
      {found.data?.pupils.length === 0 && unread === 0 ? (
        <Quiet>There are no pupils yet.</Quiet>
      ) : null}
      {found.data && found.data.pupils.length > 0 ? (
        <Stages>
          {found.data.stages.map((stage) => {
            const here = found.data.pupils.filter((one) => one.stage === stage);
            return (
              <section key={stage} aria-label={stage}>
                <h2>{stage}</h2>
                <ul>
                  {here.map((one) => (
                    <li key={one.id}>
                      <Link to={`/teach/${studio.id}/pupils/${one.id}`}>{one.name}</Link>
                      <Quiet>{one.next || "All steps are shown."}</Quiet>
                    </li>
                  ))}
                </ul>
                {here.length === 0 ? <Quiet>Nobody now.</Quiet> : null}
              </section>
            );
          })}
        </Stages>
      ) : null}
    </Main>
  );
}
