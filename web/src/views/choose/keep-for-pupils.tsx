// A teacher keeps what is chosen as an exercise for pupils, in the collection of the studio.

import { useMutation } from "@tanstack/react-query";
import { useNavigate, useSearchParams } from "react-router";
import { api, type Exercise, queries, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { useLearner } from "../../parts/use-learner";
import { methodOf, nameOf } from "../../words/names";

const MOST_OF_A_NAME = 40;

export function KeepForPupils({ exercise }: { exercise: Exercise }) {
  const learner = useLearner();
  const navigate = useNavigate();
  const into = useSearchParams()[0].get("into");
  const keep = useMutation({
    mutationFn: async () => {
      const part = { kind: "tune" as const, exercise: { ...exercise, aid: null } };
      if (into) return addTo(into, part);
      const studios = await said(api.GET("/api/studios"));
      const studio = studios.find((one) => one.role !== "pupil");
      if (!studio) throw new Error("You teach in no studio any more.");
      const task = await said(
        api.POST("/api/studios/{studio_id}/tasks", {
          params: { path: { studio_id: studio.id } },
          body: {
            name: nameFor(exercise),
            parts: [part],
          },
        }),
      );
      return { studio: studio.id, task: task.id };
    },
    onSuccess: ({ studio, task }) => {
      void queries.invalidateQueries({ queryKey: ["studio", studio] });
      navigate(`/teach/${studio}/exercises/${task}`);
    },
  });
  if (!learner.data?.teaches) return null;
  return (
    <>
      <Button isDisabled={keep.isPending} onPress={() => keep.mutate()}>
        {into ? "Add it to the exercise" : "Keep as an exercise for pupils"}
      </Button>
      {keep.error ? <Notice>{keep.error.message}</Notice> : null}
    </>
  );
}

type Part = Schemas["TaskSettings"]["parts"][number];

/** Add a part to an exercise there is: its studio's id and its own, with a point between. */
async function addTo(into: string, part: Part): Promise<{ studio: string; task: string }> {
  const [studio = "", task = ""] = into.split(".");
  const params = { path: { studio_id: studio, task_id: task } };
  const page = await said(api.GET("/api/studios/{studio_id}/tasks/{task_id}", { params }));
  const { name, note = "", starts = "own", counts = "best", parts } = page;
  const body = { name, note, starts, counts, parts: [...parts, part] };
  await said(api.PUT("/api/studios/{studio_id}/tasks/{task_id}", { params, body }));
  return { studio, task };
}

function nameFor({ method = "unison", start = "hair" }: Exercise): string {
  const name = `${methodOf(method)?.name ?? "Find the fault"}: ${nameOf("starts", start).toLowerCase()}`;
  return name.slice(0, MOST_OF_A_NAME).trim();
}
