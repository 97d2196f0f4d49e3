import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Entry } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { useServing } from "../../parts/use-serving";
import { ink, phone, tablet } from "../../theme/theme";
import { useStart } from "../../realtime/start";
import { fromTrusted, methodOptions } from "../../words/names";
import { OWN_NOTES, practised } from "./asked";
import type { Prepared } from "./prepared";
import { Tunings } from "./tunings";
import { usePlan } from "./use-plan";
import { named } from "../../words/notes";
import { Terms } from "../../parts/terms";
import { capital, howFar, sizeWords } from "../../words/formats";

type Page = Schemas["RetuningPage"];
type Row = Page["strings"][number];

const EVERYDAY = 0.7;
const WARNING = 0.8;

const Body = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 7fr) minmax(0, 3fr);
  gap: 1.25rem 3rem;
  align-items: start;
  max-width: 80rem;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const From = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 20rem) minmax(0, 20rem) auto;
  justify-content: start;
  gap: 0.75rem 1.5rem;
  align-items: end;
  grid-column: 1 / -1;
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Scroll = styled.div`
  overflow-x: auto;
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th,
  td {
    text-align: right;
    padding: 0.5rem 0.6rem;
    border-bottom: 1px solid ${ink.line};
    white-space: nowrap;
  }
  th {
    color: ${ink.quiet};
    font-weight: 400;
    vertical-align: bottom;
  }
  th:first-child,
  td:first-child {
    text-align: left;
    padding-left: 0;
  }
  td strong {
    font-size: 1.125rem;
  }
  tr[data-turned="no"] td {
    color: ${ink.quiet};
  }
  tfoot td {
    border-bottom: 0;
    font-weight: 600;
  }
  ${phone} {
    thead {
      position: absolute;
      clip-path: inset(50%);
    }
    tr {
      display: grid;
      grid-template-columns: 4.6rem minmax(0, 2fr) minmax(0, 3fr);
      gap: 0 0.5rem;
      padding: 0.4rem 0;
      border-bottom: 1px solid ${ink.line};
    }
    td {
      border: 0;
      padding: 0.1rem 0;
      text-align: left;
    }
    tbody td:nth-child(3)::after {
      content: " semitones";
    }
    tbody td:nth-child(4):not(:empty)::after {
      content: " to turn";
    }
    tbody td:nth-child(3):empty::after {
      content: "";
    }
    tbody td:nth-child(3) {
      grid-area: 2 / 2;
    }
    tbody td:nth-child(4) {
      grid-area: 3 / 2;
    }
    tbody td:nth-child(5) {
      grid-area: 1 / 3;
      font-weight: 600;
    }
    tbody td:nth-child(6) {
      grid-area: 2 / 3;
    }
    tbody td:nth-child(7) {
      grid-area: 3 / 3;
    }
    tbody td:nth-child(7)::after {
      content: " of breaking";
    }
    tfoot td:first-child {
      grid-column: 1 / -1;
    }
    tfoot td:nth-child(2) {
      grid-column: 2;
    }
  }
`;
const Side = styled.div`
  display: grid;
  gap: 1rem;
  h2 {
    margin-bottom: 0.3rem;
  }
  li {
    padding: 0.3rem 0;
  }
`;
const Practise = styled.section`
  display: grid;
  gap: 0.75rem;
  button {
    justify-self: start;
  }
`;
const Cautions = styled.ul`
  display: grid;
  gap: 0.5rem;
  li {
    border-left: 4px solid ${ink.amber};
    padding: 0 0 0 0.75rem;
  }
`;

/** From the tuning the strings are in to the one chosen above: loads, order, how far to aim off. */
export function Retune() {
  const { instrument, asked, change } = useOutletContext<Prepared>();
  const { serving } = useServing(asked.instrument, asked.notes || asked.tuning);
  const start = useStart();
  const method = asked.method || "tuner";
  const plan = usePlan(asked, method);
  const after = asked.tuning === OWN_NOTES ? asked.notes || "standard" : asked.tuning;
  const others = instrument.tunings.filter((one) => one.id !== after);
  // from where there is something to turn, where there is another tuning at all
  const listed = (others.find((one) => one.id === asked.from) ?? others[0])?.id ?? "standard";
  const own = asked.from === OWN_NOTES;
  const from = own ? { id: OWN_NOTES, notes: asked.from_notes } : { id: listed, notes: "" };
  const known = from.notes || listed;
  const query = { instrument: instrument.id, before: known, after, a4_hz: asked.a4_hz };
  const found = useQuery({
    queryKey: ["retuning", query],
    queryFn: () => said(api.GET("/api/retuning", { params: { query } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const untouched = (found.data?.strings ?? []).filter((row) => row.semitones === 0);
  return (
    <Body>
      <From>
        <Tunings
          label="From"
          instrument={instrument}
          value={from.id}
          onPick={({ tuning, notes }) => change({ from: tuning, from_notes: notes })}
        />
        <Tunings
          label="To"
          instrument={instrument}
          value={asked.tuning}
          onPick={(picked) => change({ from: from.id, ...picked })}
        />
        <Button
          isDisabled={known === after}
          onPress={() =>
            change({
              from: asked.tuning,
              from_notes: asked.notes,
              tuning: from.id,
              notes: from.notes,
            })
          }
        >
          The way back
        </Button>
        {own ? (
          <div className="own">
            <Entry
              label="The notes it stands in, from the last string to the first"
              value={asked.from_notes}
              onEnter={(from_notes) => change({ from_notes })}
            />
          </div>
        ) : null}
      </From>
      {found.error ? <Notice>{found.error.message}</Notice> : null}
      {found.data && !found.error ? (
        <>
          <Strings page={found.data} />
          <Side>
            <section>
              <h2>In this order</h2>
              <p>{order(found.data)}</p>
            </section>
            <Practise>
              <h2>Practise it first</h2>
              <Pick
                label="Method"
                value={method}
                options={serving(methodOptions())}
                onPick={(id) => change({ method: id })}
              />
              {fromTrusted(method) && untouched.length > 0 ? (
                <Pick
                  label="What gives the pitch"
                  value={asked.itself ? asked.start : "fork"}
                  options={[
                    { id: "fork", words: "The fork" },
                    ...untouched.map((row) => ({
                      id: String(row.number),
                      words: `${capital(named(row.label))}, as it stands`,
                    })),
                  ]}
                  onPick={(id) =>
                    change({ method, itself: id !== "fork", start: id === "fork" ? "" : id })
                  }
                />
              ) : null}
              {plan.error ? <Notice>{plan.error.message}</Notice> : null}
              {start.error ? <Notice>{start.error.message}</Notice> : null}
              <Button
                weight="solid"
                isDisabled={start.isPending || plan.isError || known === after}
                onPress={() =>
                  start.mutate({ exercise: practised(asked, method, plan.data, known) })
                }
              >
                Practise it
              </Button>
            </Practise>
            {found.data.cautions.length > 0 ? (
              <section>
                <h2>Mind</h2>
                <Cautions>
                  {found.data.cautions.map((caution) => (
                    <li key={caution}>
                      <Terms text={caution} />
                    </li>
                  ))}
                </Cautions>
              </section>
            ) : null}
          </Side>
        </>
      ) : null}
    </Body>
  );
}

function Strings({ page }: { page: Page }) {
  const rows = page.strings.length > 8 ? page.strings : [...page.strings].reverse();
  const place = (row: Row) => page.order.indexOf(row.number) + 1;
  return (
    <Scroll tabIndex={0} role="region" aria-label="String by string">
      <table>
        <thead>
          <tr>
            <th scope="col">String</th>
            <th scope="col">From, to</th>
            <th scope="col">Semitones</th>
            <th scope="col">Turn</th>
            <th scope="col">Leave it at</th>
            <th scope="col">Tension</th>
            <th scope="col">Of breaking</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.number} data-turned={row.semitones === 0 ? "no" : "yes"}>
              <td>{capital(named(row.label))}</td>
              <td>
                {row.semitones === 0 ? (
                  named(row.to_note)
                ) : (
                  <>
                    {named(row.from_note)} → <strong>{named(row.to_note)}</strong>
                  </>
                )}
              </td>
              <td>{row.semitones === 0 ? "" : signed(row.semitones)}</td>
              <td>{row.semitones === 0 ? "" : ordinal(place(row))}</td>
              <td>{aim(row)}</td>
              <td>
                {row.tension_before_n.toFixed(0)} → {row.tension_after_n.toFixed(0)} N
              </td>
              <td>
                {Math.round(row.breaking_share * 100)} % {shareWords(row.breaking_share)}
              </td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <td colSpan={5}>All strings together</td>
            <td>
              {page.load_before_n.toFixed(0)} → {page.load_after_n.toFixed(0)} N
            </td>
            <td>{signed(Math.round(page.load_change_n))} N</td>
          </tr>
        </tfoot>
      </table>
    </Scroll>
  );
}

function aim(row: Row): string {
  const drift = Math.round(row.drift_cents);
  if (row.semitones === 0)
    return drift === 0 ? "stays" : `moves ${sizeWords(drift, 0)} ${drift > 0 ? "up" : "down"}`;
  const low = Math.round(-row.aim_cents);
  if (low >= 1) return howFar(-low, 0);
  return drift <= -1 ? `its note; sinks ${-drift} later` : "its note";
}

function order(page: Page): string {
  if (page.order.length === 0) return "Nothing to turn.";
  const label = (number: number) => page.strings.find((one) => one.number === number)?.label ?? "";
  const names = page.order.map((number) => named(label(number)));
  const said =
    names.length === 1
      ? capital(names[0] ?? "")
      : `${capital(names.slice(0, -1).join(", "))}, then ${names.at(-1)}`;
  if (names.length === 1) return `${said}. Then go over every string once more.`;
  return `${said}. Bring all of them near first, then go over every string again.`;
}

function shareWords(share: number): string {
  if (share > WARNING) return "(too much)";
  return share > EVERYDAY ? "(near its limit)" : "";
}

function ordinal(place: number): string {
  const ends: Record<number, string> = { 1: "st", 2: "nd", 3: "rd" };
  const teen = place % 100 > 10 && place % 100 < 14;
  return `${place}${teen ? "th" : (ends[place % 10] ?? "th")}`;
}

function signed(value: number): string {
  return value > 0 ? `+${value}` : String(value);
}
