import { useNavigate } from "react-router";
import styled from "styled-components";
import type { Schemas, SittingPage } from "../../api/client";
import { Button } from "../../parts/button";
import { Fold } from "../../parts/fold";
import { Choices, Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { ink, phone } from "../../theme/theme";
import { naming } from "../../words/notes";
import { NextInPlan } from "../../today/next-in-plan";
import { NextInSet } from "../../today/set-for-you";
import { TrialsPicture } from "./trials-picture";
import { useSit } from "./use-sit";

const Main = styled.main`
  display: grid;
  gap: 1.25rem;
  align-content: start;
  padding: 1.75rem 1.5rem;
  max-width: 72rem;
  width: 100%;
  margin: 0 auto;
  h1 {
    font-size: 2.25rem;
    text-wrap: balance;
  }
  ${phone} {
    padding: 1rem;
    h1 {
      font-size: 1.6rem;
    }
  }
`;
const Quiet = styled.p`
  color: ${ink.quiet};
`;
const Buttons = styled(Choices)`
  justify-content: flex-start;
`;
const SURE = { guess: "a guess", fairly: "fairly sure", sure: "sure" } as const;

const TIMES: Record<number, string> = { 0: "–", 1: "once" };

/** What a sitting is played on: one string of an instrument, or all of it. */
export function playedOn(page: SittingPage): string {
  return page.measured
    ? `${page.instrument_name}, ${page.string_name} string`
    : page.instrument_name;
}

type Result = Schemas["SittingResult"];

/** What a sitting told, from the top: what is heard, what else there is to say, then each trial. */
export function SittingResult({ page, result }: { page: SittingPage; result: Result }) {
  const navigate = useNavigate();
  const sit = useSit();
  return (
    <Main>
      <Quiet>
        {page.name} · {playedOn(page)}
      </Quiet>
      <h1>{result.headline}</h1>
      {page.measured && result.trials.length > 0 ? (
        <p>
          {result.right} of {result.trials.length} right.
        </p>
      ) : null}
      {result.remarks.map((remark) => (
        <p key={remark}>{remark}</p>
      ))}
      {result.trials.length > 0 ? <TrialsPicture page={page} result={result} /> : null}
      <Again trials={result.trials} />
      <NextInPlan attempt={page.id} rest={result.rest} />
      <NextInSet attempt={page.id} />
      <Buttons>
        <Button
          weight="solid"
          isDisabled={sit.isPending}
          onPress={() =>
            sit.mutate({
              drill: page.drill,
              instrument: page.instrument,
              string: page.string,
              interval: page.interval,
              truth: page.truth,
              naming: naming(),
            })
          }
        >
          Another sitting
        </Button>
        <Button onPress={() => navigate("/listen")}>Other drills</Button>
      </Buttons>
      {sit.error ? <Notice>{sit.error.message}</Notice> : null}
      {result.trials.length > 0 ? (
        <Fold head="Every trial">
          <Table>
            <caption>What you judged</caption>
            <thead>
              <tr>
                <th scope="col">Truth</th>
                <th scope="col">You said</th>
                <th scope="col">Played</th>
              </tr>
            </thead>
            <tbody>
              {result.trials.map((one, n) => (
                <tr key={n}>
                  <td>{one.says}</td>
                  <td>
                    {one.is_right ? "✓ " : ""}
                    {one.said}, {SURE[one.sure]}
                  </td>
                  <td>{TIMES[one.listens] ?? `${one.listens} times`}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        </Fold>
      ) : null}
    </Main>
  );
}

const MOST_AGAIN = 3;

/** What was missed, in sentences: what to hear again. Nothing where nothing was. */
function Again({ trials }: { trials: Result["trials"] }) {
  const missed = [...new Set(trials.filter((one) => !one.is_right).map((one) => one.says))];
  if (missed.length === 0) return null;
  return (
    <section aria-labelledby="missed">
      <h2 id="missed">What was missed</h2>
      {missed.slice(0, MOST_AGAIN).map((says) => (
        <p key={says}>{says}</p>
      ))}
    </section>
  );
}
