import { keepPreviousData, useInfiniteQuery, useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { type Attempt, api, queries, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { Notice } from "../../parts/notice";
import { ink, phone } from "../../theme/theme";
import { Choices, Table } from "../../parts/layout";
import { Pick } from "../../parts/pick";
import { dayAndTime, sizeWords } from "../../words/formats";
import { aboutOf, methodOptions } from "../../words/names";
import { GettingOn } from "./getting-on";
import { ByMethod, Progress } from "./progress";

const Main = styled.main`
  padding: 1.75rem 1.5rem 3rem;
  display: grid;
  gap: 1.5rem;
  align-content: start;
  max-width: 72rem;
  width: 100%;
  margin: 0 auto;
  ${phone} {
    padding: 1.25rem 1rem 2rem;
  }
`;
const Attempts = styled(Table)`
  td:nth-child(3),
  th:nth-child(3) {
    text-align: left;
    font-weight: 650;
  }
  td a {
    display: inline-grid;
    align-content: center;
    min-height: 44px;
    font-weight: 600;
    small {
      font-weight: 400;
      font-size: 0.875rem;
    }
  }
  ${phone} {
    th,
    td {
      padding-right: 0.4rem;
    }
    th:nth-child(n + 4),
    td:nth-child(n + 4) {
      display: none;
    }
  }
`;
const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 0.75rem;
`;
const Foot = styled.div`
  display: flex;
  justify-content: space-between;
  gap: 1rem;
  flex-wrap: wrap;
  align-items: center;
  p {
    color: ${ink.quiet};
    max-width: 36rem;
  }
`;

type Wanted = { instrument: string; method: string; state: "" | "open" | "finished" };
const ANY: Wanted = { instrument: "", method: "", state: "" };
const Row = styled.div`
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 16rem));
  gap: 0.75rem 1rem;
  ${phone} {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
`;

type FiltersProps = { wanted: Wanted; onWant: (some: Partial<Wanted>) => void };

/** Which attempts are shown. */
function Filters({ wanted, onWant }: FiltersProps) {
  const instruments = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <Row>
      <Pick
        label="Instrument"
        value={wanted.instrument || "any"}
        options={[
          { id: "any", words: "Any" },
          ...(instruments.data ?? []).map((one) => ({ id: one.id, words: one.name })),
        ]}
        onPick={(id) => onWant({ instrument: id === "any" ? "" : id })}
      />
      <Pick
        label="Method"
        value={wanted.method || "any"}
        options={[
          { id: "any", words: "Any" },
          ...methodOptions().map(({ id, words }) => ({ id, words })),
          { id: "free", words: "Free play" },
          { id: "fault", words: "Find the fault" },
        ]}
        onPick={(id) => onWant({ method: id === "any" ? "" : id })}
      />
      <Pick
        label="Finished"
        value={wanted.state || "any"}
        options={[
          { id: "any", words: "All" },
          { id: "finished", words: "Finished" },
          { id: "open", words: "Not finished" },
        ]}
        onPick={(id) => onWant({ state: id === "any" ? "" : id })}
      />
    </Row>
  );
}

function placeOf(attempt: Attempt): string {
  return attempt.finished_at ? `/review/${attempt.id}` : `/tune/${attempt.id}`;
}

function pointsWords(attempt: Attempt): string {
  if (!attempt.finished_at) return "resume";
  return attempt.points === null ? "–" : String(Math.round(attempt.points));
}

/** Help, ear and accuracy of one attempt; of an earlier version's only that it is one. */
function Brief({ attempt }: { attempt: Attempt }) {
  const { brief } = attempt;
  if (!brief) return <td colSpan={4}>{attempt.earlier ? "scored by an earlier version" : ""}</td>;
  return (
    <>
      <td>
        {sizeWords(brief.median_cents)}, {brief.worst} {sizeWords(brief.worst_cents)}
      </td>
      <td>{brief.sides_of ? `${brief.sides_right} of ${brief.sides_of}` : ""}</td>
      <td>{attempt.points === null ? "free play" : aboutOf("bases", brief.aid)}</td>
      <td>{brief.by_ear_of ? `${brief.by_ear} of ${brief.by_ear_of}` : ""}</td>
    </>
  );
}

/** Every attempt, the newest first; each can be opened again. */
export function Review() {
  const navigate = useNavigate();
  const [erasing, setErasing] = useState(false);
  const [wanted, want] = useState<Wanted>(ANY);
  const attempts = useInfiniteQuery({
    queryKey: ["attempts", wanted],
    queryFn: ({ pageParam: after }) =>
      said(
        api.GET("/api/attempts", {
          params: {
            query: {
              after,
              practice: "bench",
              instrument: wanted.instrument || null,
              method: wanted.method || null,
              state: wanted.state || null,
            },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.after,
    refetchInterval: (query) => (query.state.error ? 2000 : false),
  });
  const learner = useQuery({
    queryKey: ["learner"],
    queryFn: () => said(api.GET("/api/learner")),
  });
  const leave = useMutation({
    mutationFn: () => said(api.POST("/api/learner/leave")),
    onSuccess: () => void queries.invalidateQueries(),
  });
  const demo = learner.data?.who === "demo";
  const erase = useMutation({
    mutationFn: () => said(api.DELETE("/api/learner")),
    onSuccess: () => {
      setErasing(false);
      for (const key of Object.keys(localStorage)) {
        if (key.startsWith("meldrin:unsaved:")) localStorage.removeItem(key);
      }
      void queries.invalidateQueries();
    },
  });
  const eraseOne = useMutation({
    mutationFn: (id: string) =>
      said(api.DELETE("/api/attempts/{attempt_id}", { params: { path: { attempt_id: id } } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["attempts"] }),
  });
  const bringing = useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text();
      return said(
        api.POST("/api/attempts/import", {
          body: text,
          bodySerializer: (body) => body,
          headers: { "Content-Type": "text/plain" },
        }),
      );
    },
    onSuccess: (attempt) => {
      void queries.invalidateQueries({ queryKey: ["attempts"] });
      navigate(placeOf(attempt));
    },
  });
  const bring = (files: FileList | null) => {
    const file = files?.[0];
    if (file) bringing.mutate(file);
  };
  const list = attempts.data?.pages.flatMap((page) => page.attempts);
  const isFiltered = wanted !== ANY && Object.values(wanted).some((one) => one !== "");
  const done = (list ?? []).filter((attempt) => attempt.points !== null);

  return (
    <Main>
      <h1 className="unseen">Review</h1>
      {bringing.error ? <Notice>{bringing.error.message}</Notice> : null}
      {attempts.error ? <Notice>{attempts.error.message}</Notice> : null}
      {list === undefined && !attempts.error ? <p role="status">Fetching …</p> : null}
      {list ? <GettingOn instrument={wanted.instrument} method={wanted.method} /> : null}
      <Head>
        <h2>Your attempts</h2>
        <FileTrigger acceptedFileTypes={[".json", "application/json"]} onSelect={bring}>
          <Button>Import attempt</Button>
        </FileTrigger>
      </Head>
      {list && (list.length > 0 || isFiltered) ? (
        <Filters wanted={wanted} onWant={(some) => want((before) => ({ ...before, ...some }))} />
      ) : null}
      {list?.length === 0 && isFiltered ? <p role="status">None of that kind.</p> : null}
      {list?.length === 0 && !isFiltered ? (
        <>
          <p>Nothing yet. The first one takes a few minutes, and every point of it is explained.</p>
          <div>
            <Button weight="solid" onPress={() => navigate("/tune")}>
              Choose what to start with
            </Button>
          </div>
        </>
      ) : null}
      {done.length > 1 ? <Progress attempts={done} /> : null}
      {done.length > 1 ? <ByMethod attempts={done} /> : null}
      {list && list.length > 0 ? (
        <>
          <Attempts>
            <thead>
              <tr>
                <th scope="col">Exercise</th>
                <th scope="col">Started</th>
                <th scope="col">Typical, worst string</th>
                <th scope="col">Side named</th>
                <th scope="col">Help</th>
                <th scope="col">By ear</th>
                <th scope="col">Points of 100</th>
              </tr>
            </thead>
            <tbody>
              {list.map((attempt) => (
                <tr key={attempt.id}>
                  <td>
                    {attempt.exercise ? (
                      <Link to={placeOf(attempt)}>
                        {attempt.title ?? attempt.name}
                        {attempt.title ? <small>{attempt.name}</small> : null}
                      </Link>
                    ) : (
                      <Button onPress={() => eraseOne.mutate(attempt.id)}>
                        {attempt.name}: erase it
                      </Button>
                    )}
                  </td>
                  <td>{dayAndTime(attempt.created_at)}</td>
                  <Brief attempt={attempt} />
                  <td>{pointsWords(attempt)}</td>
                </tr>
              ))}
            </tbody>
          </Attempts>
          {attempts.hasNextPage ? (
            <div>
              <Button
                isDisabled={attempts.isFetchingNextPage}
                onPress={() => void attempts.fetchNextPage()}
              >
                Show earlier ones
              </Button>
            </div>
          ) : null}
          <Foot>
            <p>
              <Link to="/review/rubric">How the score works</Link>
            </p>
            <p>
              {demo
                ? "You look as the demo’s pupil, whose attempts are made up."
                : "This browser is known by a random cookie only, and nobody else sees these attempts."}
            </p>
            {demo ? (
              <Button onPress={() => leave.mutate()}>Back to my own attempts</Button>
            ) : (
              <Button onPress={() => setErasing(true)}>Erase everything</Button>
            )}
          </Foot>
        </>
      ) : null}
      <Dialog
        title="Erase everything?"
        role="alertdialog"
        isOpen={erasing}
        onClose={() => setErasing(false)}
      >
        <p>All your attempts and scores are erased for good. This cannot be taken back.</p>
        {erase.error ? <Notice>{erase.error.message}</Notice> : null}
        <Choices>
          <Button onPress={() => setErasing(false)}>Keep them</Button>
          <Button weight="solid" onPress={() => erase.mutate()}>
            Erase everything
          </Button>
        </Choices>
      </Dialog>
    </Main>
  );
}
