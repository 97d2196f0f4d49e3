// An exercise that is ready, adapted: on which instrument and string, and what comes first.

import { useState } from "react";
import { useNavigate } from "react-router";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Dialog } from "../../parts/dialog";
import { Choices } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { Quiet } from "./layout";
import { type StringOf, StringOfPicks } from "./string-of";
import { useChange } from "./use-studio";

type Kind = Schemas["ReadyWanted"]["kind"];
type First = NonNullable<Schemas["ReadyWanted"]["first"]>;

const KINDS: readonly { id: Kind; words: string }[] = [
  { id: "first_lesson", words: "A first lesson" },
  { id: "two_minutes", words: "Two minutes with everyone" },
];
const FIRSTS: readonly { id: First; words: string }[] = [
  { id: "ear", words: "Ear first" },
  { id: "tuner", words: "Tuner first" },
];
const SAYS: Record<Kind, string> = {
  first_lesson:
    "What to know before the first turn, then one string in three short exercises: with help, with the other way, and by ear alone.",
  two_minutes:
    "One string, the same for all, by ear, in two minutes. Give it by a code on the wall: nobody needs an account.",
};

export function ReadyDialog({ studio, onClose }: { studio: string; onClose: () => void }) {
  const navigate = useNavigate();
  const [kind, setKind] = useState<Kind>("first_lesson");
  const [on, setOn] = useState<StringOf>({ instrument: "viola", string: 2 });
  const [first, setFirst] = useState<First>("ear");
  const make = useChange(
    () =>
      said(
        api.POST("/api/studios/{studio_id}/tasks/ready", {
          params: { path: { studio_id: studio } },
          body: { kind, ...on, first },
        }),
      ),
    (made) => navigate(`/teach/${studio}/exercises/${made.id}`),
  );
  return (
    <Dialog title="An exercise that is ready" isOpen onClose={onClose}>
      <Choice label="Which" value={kind} options={KINDS} onChoose={setKind} />
      <Quiet>{SAYS[kind]}</Quiet>
      <StringOfPicks value={on} onPick={setOn} />
      {kind === "first_lesson" ? (
        <Choice label="What comes first" value={first} options={FIRSTS} onChoose={setFirst} />
      ) : null}
      {make.error ? <Notice>{make.error.message}</Notice> : null}
      <Choices>
        <Button onPress={onClose}>Cancel</Button>
        <Button weight="solid" isDisabled={make.isPending} onPress={() => make.mutate(undefined)}>
          Make it
        </Button>
      </Choices>
    </Dialog>
  );
}
