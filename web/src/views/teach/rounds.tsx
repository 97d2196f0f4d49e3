// Rounds with the class: one is begun here; those that were begun are found again.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, said, type Interval, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { Tick } from "../../parts/tick";
import { dayAndTime } from "../../words/formats";
import { Buttons, Lines, Main, Part, Quiet, Two, Way } from "./layout";
import { type StringOf, StringOfPicks } from "./string-of";
import { useChange, useThisStudio } from "./use-studio";

type Size = NonNullable<Schemas["RoundWanted"]["size"]>;
type Row = Schemas["RoundRowPage"];

/** What a class can judge: drills and, of the pairs, which two notes. */
const JUDGED = [
  { id: "unison", words: "Two notes: low, in tune or high", drill: "width", interval: "unison" },
  { id: "fifth", words: "A fifth: narrow, true or wide", drill: "width", interval: "fifth" },
  { id: "octave", words: "An octave: narrow, true or wide", drill: "width", interval: "octave" },
  { id: "higher", words: "One after the other: higher or lower", drill: "higher" },
  { id: "beating", words: "Still or beating", drill: "beating" },
  { id: "faster", words: "Which pair beats faster", drill: "faster" },
  { id: "alone", words: "False or out of tune", drill: "alone" },
] as const satisfies readonly { id: string; words: string; drill: string; interval?: Interval }[];
const SIZES: readonly { id: Size; words: string }[] = [
  { id: "large", words: "Easy" },
  { id: "middle", words: "Middle" },
  { id: "small", words: "Fine" },
];
const COUNTS = ["3", "5", "8", "12"].map((id) => ({ id, words: `${id} to judge` }));
const STANDS: Record<Row["stage"], string> = {
  gathering: "not begun",
  asked: "goes on",
  told: "goes on",
  over: "over",
};

export function Rounds() {
  const studio = useThisStudio();
  const navigate = useNavigate();
  const [judged, setJudged] = useState<(typeof JUDGED)[number]["id"]>("unison");
  const [on, setOn] = useState<StringOf>({ instrument: "viola", string: 2 });
  const [count, setCount] = useState("8");
  const [size, setSize] = useState<Size>("middle");
  const [fading, setFading] = useState(true);
  const [eachPlays, setEachPlays] = useState(false);
  const rounds = useQuery({
    queryKey: ["studio", studio.id, "rounds"],
    queryFn: () =>
      said(
        api.GET("/api/studios/{studio_id}/rounds", { params: { path: { studio_id: studio.id } } }),
      ),
  });
  const begin = useChange(
    () => {
      const chosen = JUDGED.find((one) => one.id === judged) ?? JUDGED[0];
      const interval = "interval" in chosen ? chosen.interval : "unison";
      return said(
        api.POST("/api/studios/{studio_id}/rounds", {
          params: { path: { studio_id: studio.id } },
          body: {
            sitting: { drill: chosen.drill, ...on, interval },
            count: Number(count),
            size,
            fading,
            each_plays: eachPlays,
          },
        }),
      );
    },
    (made) => navigate(`/teach/${studio.id}/rounds/${made.scene.id}`),
  );
  const problem = begin.error ?? rounds.error;
  return (
    <Main>
      <Two>
        <Part>
          <h1>A round with the class</h1>
          <Quiet>
            Everybody hears the same and says what it is, on any phone or tablet, by a code on the
            wall. Nobody needs an account.
          </Quiet>
          {problem ? <Notice>{problem.message}</Notice> : null}
          <Pick
            label="What the class judges"
            value={judged}
            options={JUDGED}
            onPick={(id) => setJudged(JUDGED.find((one) => one.id === id)?.id ?? "unison")}
          />
          <Buttons>
            <StringOfPicks value={on} onPick={setOn} />
          </Buttons>
          <Choice label="How fine" value={size} options={SIZES} onChoose={setSize} />
          <Choice label="How many" value={count} options={COUNTS} onChoose={setCount} />
          <Tick
            words="Help that fades"
            about="The first third shows the water, the second says what to listen for, the last is by ear alone."
            isSelected={fading}
            onChange={setFading}
          />
          <Tick
            words="Each device plays it"
            about="For pupils with headphones, or who are not in the room. Else this device plays to all."
            isSelected={eachPlays}
            onChange={setEachPlays}
          />
          <Buttons>
            <Button
              weight="solid"
              size="tall"
              isDisabled={begin.isPending}
              onPress={() => begin.mutate(undefined)}
            >
              Open the round
            </Button>
          </Buttons>
        </Part>
        <Part>
          <h2>Rounds so far</h2>
          {rounds.data && rounds.data.length > 0 ? (
            <Lines aria-label="Rounds so far">
              {rounds.data.map((one) => (
                <li key={one.id}>
                  <span>
                    <strong>{one.name}</strong>
                    <small>
                      {dayAndTime(one.moved)} · {STANDS[one.stage]}, {one.number} of {one.count}
                    </small>
                  </span>
                  <Way
                    as={Link}
                    to={`/teach/${studio.id}/rounds/${one.id}`}
                    aria-label={`Open ${one.name}`}
                  >
                    Open
                  </Way>
                </li>
              ))}
            </Lines>
          ) : (
            <Quiet>None yet. A round is kept for 30 days, without names.</Quiet>
          )}
          <h2>From a comparison</h2>
          <Quiet>Each of “Show the class” can be a round too.</Quiet>
          <Buttons>
            <Way as={Link} to="/show">
              Show the class
            </Way>
          </Buttons>
        </Part>
      </Two>
    </Main>
  );
}
