// Rounds with the class: one is begun here; those that were begun are found again.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { Tick } from "../../parts/tick";
import { dayAndTime } from "../../words/formats";
import { names, roundOf } from "../../words/names";
import { Buttons, Lines, Main, Part, Quiet, Two, Way } from "./layout";
import { type StringOf, StringOfPicks } from "./string-of";
import { useChange, useThisStudio } from "./use-studio";

type Size = NonNullable<Schemas["RoundWanted"]["size"]>;
type Row = Schemas["RoundRowPage"];

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

/** What is chosen of a round; a round hands it on to the next one. */
type Chosen = {
  judged: string;
  on: StringOf;
  count: string;
  size: Size;
  fading: boolean;
  eachPlays: boolean;
};
const USUAL: Chosen = {
  judged: "",
  on: { instrument: "viola", string: 2 },
  count: "8",
  size: "middle",
  fading: true,
  eachPlays: false,
};

export function Rounds() {
  const studio = useThisStudio();
  const navigate = useNavigate();
  const before = useLocation().state as Partial<Chosen> | null;
  const [chosen, setChosen] = useState<Chosen>({ ...USUAL, ...before });
  const choose = (some: Partial<Chosen>) => setChosen({ ...chosen, ...some });
  const judged = roundOf(chosen.judged);
  const rounds = useQuery({
    queryKey: ["studio", studio.id, "rounds"],
    queryFn: () =>
      said(
        api.GET("/api/studios/{studio_id}/rounds", { params: { path: { studio_id: studio.id } } }),
      ),
  });
  const begin = useChange(
    () => {
      const { drill, interval } = judged;
      return said(
        api.POST("/api/studios/{studio_id}/rounds", {
          params: { path: { studio_id: studio.id } },
          body: {
            sitting: { drill, ...chosen.on, interval },
            count: Number(chosen.count),
            size: chosen.size,
            fading: chosen.fading,
            each_plays: chosen.eachPlays,
          },
        }),
      );
    },
    (made) => navigate(`/teach/${studio.id}/rounds/${made.scene.id}`, { state: chosen }),
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
            value={judged.id}
            options={names().rounds}
            onPick={(id) => choose({ judged: id })}
          />
          <Buttons>
            <StringOfPicks value={chosen.on} onPick={(on) => choose({ on })} />
          </Buttons>
          <Choice
            label="How fine"
            value={chosen.size}
            options={SIZES}
            onChoose={(size) => choose({ size })}
          />
          <Choice
            label="How many"
            value={chosen.count}
            options={COUNTS}
            onChoose={(count) => choose({ count })}
          />
          <Tick
            words="Help that fades"
            about="The first third shows the water, the second says what to listen for, the last is by ear alone."
            isSelected={chosen.fading}
            onChange={(fading) => choose({ fading })}
          />
          <Tick
            words="Each device plays it"
            about="For pupils with headphones, or who are not in the room. Else this device plays to all."
            isSelected={chosen.eachPlays}
            onChange={(eachPlays) => choose({ eachPlays })}
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
