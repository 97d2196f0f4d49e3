import { useState } from "react";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import type { Plan } from "../../api/client";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { tablet } from "../../theme/theme";
import { methodOptions } from "../../words/names";
import { OutcomePicture } from "./outcome-picture";
import type { Prepared } from "./prepared";
import { usePlan } from "./use-plan";

const Sides = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 1.5rem 2.5rem;
  align-items: start;
  max-width: 84rem;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Side = styled.section`
  display: grid;
  gap: 0.75rem;
  min-width: 0;
`;
/** Whether two plans leave a string at different pitches. */
function differs(one: Plan | undefined, other: Plan | undefined): boolean {
  if (!one || !other) return false;
  return other.strings.some((string, n) => {
    const beside = one.strings[n]?.equal_cents ?? 0;
    return Math.abs(string.equal_cents - beside) > 0.5;
  });
}

/** Compare methods: all strings against equal temperament, two methods side by side. */
export function Compare() {
  const { asked, change } = useOutletContext<Prepared>();
  const first = usePlan(asked);
  const method = asked.method || first.data?.method || "mixed";
  const [chosen, setChosen] = useState<string | null>(null);
  const own = { ...asked, temperament: "own" as const };
  const each = usePlan(own, "each");
  const fifths = usePlan(own, "fifths");
  const harmonics = usePlan(own, "harmonics");
  const offered = [each, harmonics, fifths].map((one) => one.data);
  const other = chosen ?? offered.find((one) => differs(first.data, one))?.method ?? "each";
  const second = usePlan(own, other);
  const edge = Math.max(
    10,
    ...[first, second].flatMap((one) =>
      (one.data?.strings ?? []).map((string) => Math.abs(string.equal_cents) * 1.25),
    ),
  );
  return (
    <Sides>
      <Side aria-label="The first method">
        <Pick
          label="This method"
          value={method}
          options={methodOptions()}
          onPick={(chosen) => change({ method: chosen })}
        />
        {first.error ? <Notice>{first.error.message}</Notice> : null}
        {first.data && !first.error ? <OutcomePicture plan={first.data} edgeCents={edge} /> : null}
      </Side>
      <Side aria-label="The second method">
        <Pick label="Beside this one" value={other} options={methodOptions()} onPick={setChosen} />
        {second.error ? <Notice>{second.error.message}</Notice> : null}
        {second.data && !second.error ? (
          <OutcomePicture plan={second.data} edgeCents={edge} />
        ) : null}
      </Side>
    </Sides>
  );
}
