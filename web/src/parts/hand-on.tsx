// On a device that pupils share: the one who is done hands it to the next.

import { useState } from "react";
import { api, queries, said } from "../api/client";
import { Button } from "./button";
import { Dialog } from "./dialog";
import { Choices } from "./layout";
import { Notice } from "./notice";

const UNSAVED = "meldrin:unsaved:";
const STAYS = ["meldrin:theme", "meldrin:level"]; // of the device, not of a pupil

const keys = () => Object.keys(localStorage);

/** Nothing of one pupil is left for the next, neither on the page nor in the browser. */
async function handOn(): Promise<void> {
  await said(api.POST("/api/shared-device/hand-on"));
  for (const key of keys())
    if (key.startsWith("meldrin:") && !STAYS.includes(key)) localStorage.removeItem(key);
  queries.clear();
  location.assign("/shared"); // the page begins again
}

export function HandOn({ name }: { name: string }) {
  const [asks, setAsks] = useState(false);
  const [problem, setProblem] = useState("");
  const go = () => {
    handOn().catch((error: unknown) => {
      setProblem((error as Error).message);
      setAsks(true);
    });
  };
  const isAllSaved = () => !keys().some((key) => key.startsWith(UNSAVED));
  return (
    <>
      <strong>{name}</strong>
      <Button weight="solid" onPress={() => (isAllSaved() ? go() : setAsks(true))}>
        Next pupil
      </Button>
      <Dialog title="Hand it on?" isOpen={asks} onClose={() => setAsks(false)}>
        <p>Some turns may still be on their way. Wait until the page says that all is saved.</p>
        {problem ? <Notice>{problem}</Notice> : null}
        <Choices>
          <Button onPress={go}>Hand it on all the same</Button>
          <Button weight="solid" onPress={() => setAsks(false)}>
            Wait
          </Button>
        </Choices>
      </Dialog>
    </>
  );
}
