import styled from "styled-components";
import type { AttemptPage, BenchAction, Scene } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { ink } from "../../theme/theme";
import { capital, howFar } from "../../words/formats";
import { labelOf } from "../../words/labels";
import { behaves } from "./commands";
import { Choices } from "../../parts/layout";
import type { SessionState } from "./session";

const Table = styled.table`
  border-collapse: collapse;
  width: 100%;
  th,
  td {
    text-align: left;
    padding: 0.3rem 1rem 0.3rem 0;
    border-bottom: 1px solid ${ink.line};
  }
  thead th {
    color: ${ink.quiet};
    font-weight: 600;
    font-size: 0.9375rem;
  }
`;
const Offers = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
`;

export type EndingProps = {
  page: AttemptPage;
  scene: Scene;
  checked: SessionState["checked"];
  isOpen: boolean;
  onClose: () => void;
  onAct: (action: BenchAction) => void;
};

/** What can be done when the last string is left: see what the tuner says, hear whether it holds. */
export function Ending({ page, scene, checked, isOpen, onClose, onAct }: EndingProps) {
  const gives = ["pegs", "nut", "creep"].some((one) => behaves(page, one));
  const steps = page.stages.filter((stage) => stage.kind === "step");
  const { minute } = scene;
  const shown = scene.checked && checked !== null;
  return (
    <Dialog title="Are you done?" isOpen={isOpen} onClose={onClose}>
      <p>
        {scene.may_check
          ? "You can check with the tuner now. It changes nothing you have said."
          : "Say how each string is first, and you can check with the tuner here."}
      </p>
      {shown || minute ? (
        <Table>
          <thead>
            <tr>
              <th scope="col">String</th>
              {shown ? (
                <>
                  <th scope="col">The tuner shows</th>
                  <th scope="col">It should show</th>
                  <th scope="col">So it is</th>
                </>
              ) : null}
              {minute ? <th scope="col">After a minute of playing</th> : null}
            </tr>
          </thead>
          <tbody>
            {steps.map(({ own }) => {
              const number = own.string ?? 0;
              const read = checked?.find((one) => one.number === number);
              const moved = minute?.[number - 1] ?? 0;
              return (
                <tr key={number}>
                  <th scope="row">{capital(labelOf(page, number))}</th>
                  {shown ? (
                    <>
                      <td>{read?.name ? noteWords(read.name, read.cents) : "no note"}</td>
                      <td>{read ? noteWords(read.should_name, read.should_cents) : ""}</td>
                      <td>
                        <strong>{howFar(read?.off_cents ?? null, 1)}</strong>
                      </td>
                    </>
                  ) : null}
                  {minute ? <td>{movedWords(moved)}</td> : null}
                </tr>
              );
            })}
          </tbody>
        </Table>
      ) : null}
      <Offers>
        {scene.may_check && !scene.checked ? (
          <Button onPress={() => onAct({ kind: "check_with_tuner" })}>Check with the tuner</Button>
        ) : null}
        {gives && scene.may_check && !minute ? (
          <Button onPress={() => onAct({ kind: "play_a_minute" })}>Play it for a minute</Button>
        ) : null}
      </Offers>
      <Choices>
        <Button onPress={onClose}>Go on tuning</Button>
        <Button
          weight="solid"
          onPress={() => {
            onClose();
            onAct({ kind: "finish" });
          }}
        >
          Finish and see
        </Button>
      </Choices>
    </Dialog>
  );
}

/** As a tuner shows it: the note, and how many cents above or below. */
function noteWords(name: string, cents: number | null): string {
  if (cents === null || Math.abs(cents) < 0.05) return name;
  return `${name} ${cents < 0 ? "−" : "+"}${Math.abs(cents).toFixed(1)}`;
}

function movedWords(cents: number): string {
  if (Math.abs(cents) < 0.05) return "holds";
  const size = Math.abs(cents).toFixed(1);
  return `${cents < 0 ? "sank" : "rose"} ${size} ${size === "1.0" ? "cent" : "cents"}`;
}
