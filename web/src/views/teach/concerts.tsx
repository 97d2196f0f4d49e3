// The checks before a concert of a studio: begun here, and found again.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { dayAndTime } from "../../words/formats";
import { AgreedFields, type AgreedWanted } from "./concert";
import { Buttons, Lines, Main, Part, Quiet, Two, Way } from "./layout";
import { useChange, useThisStudio } from "./use-studio";

const NEW: AgreedWanted = { name: "", group: null, a4_hz: 440, fifth_cents: 0 };

export function Concerts() {
  const studio = useThisStudio();
  const navigate = useNavigate();
  const [wanted, setWanted] = useState(NEW);
  const path = { params: { path: { studio_id: studio.id } } };
  const concerts = useQuery({
    queryKey: ["studio", studio.id, "concerts"],
    queryFn: () => said(api.GET("/api/studios/{studio_id}/ensembles", path)),
  });
  const make = useChange(
    () => said(api.POST("/api/studios/{studio_id}/ensembles", { ...path, body: wanted })),
    (made) => navigate(`/teach/${studio.id}/concerts/${made.id}`),
  );
  const problem = make.error ?? concerts.error;
  return (
    <Main>
      <Two>
        <Part>
          <h1>A check before a concert</h1>
          <Quiet>
            Every open string of the group on one line: as each pupil tuned last, or as you read it
            from a tuner.
          </Quiet>
          {problem ? <Notice>{problem.message}</Notice> : null}
          <AgreedFields wanted={wanted} onChange={setWanted} />
          <Buttons>
            <Button
              weight="solid"
              size="tall"
              isDisabled={wanted.name.trim() === "" || make.isPending}
              onPress={() => make.mutate(undefined)}
            >
              Look at the strings
            </Button>
          </Buttons>
        </Part>
        <Part>
          <h2>So far</h2>
          {concerts.data && concerts.data.length > 0 ? (
            <Lines aria-label="So far">
              {concerts.data.map((one) => (
                <li key={one.id}>
                  <span>
                    <strong>{one.name}</strong>
                    <small>
                      A = {one.a4_hz} Hz · {dayAndTime(one.changed)}
                    </small>
                  </span>
                  <Way
                    as={Link}
                    to={`/teach/${studio.id}/concerts/${one.id}`}
                    aria-label={`Open ${one.name}`}
                  >
                    Open
                  </Way>
                </li>
              ))}
            </Lines>
          ) : (
            <Quiet>None yet.</Quiet>
          )}
        </Part>
      </Two>
    </Main>
  );
}
