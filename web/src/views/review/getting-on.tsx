// How one gets on: what is heard and how strings end, in one period against the one before.

import { useMutation, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import { api, queries, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Fold } from "../../parts/fold";
import { Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { useMedia } from "../../parts/use-media";
import { ink, PHONE, phone } from "../../theme/theme";
import { named } from "../../words/notes";

type Page = Schemas["ProgressPage"];
type Heard = Page["heard"][number];

const Section = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 1rem;
  h2 {
    flex: 1 1 20rem;
    font-size: 1.75rem;
    text-wrap: balance;
  }
  .says p {
    font-size: 1.0625rem;
  }
  .says p + p {
    margin-top: 0.35rem;
  }
  ${phone} {
    h2 {
      font-size: 1.375rem;
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
const Figure = styled.figure`
  display: grid;
  gap: 0.4rem;
  svg {
    width: 100%;
    height: auto;
    display: block;
  }
  text {
    font-size: 14px;
    fill: ${ink.text};
  }
  text.name {
    paint-order: stroke;
    stroke: ${ink.paper};
    stroke-width: 5px;
  }
  text.quiet {
    fill: ${ink.quiet};
  }
  figcaption {
    color: ${ink.quiet};
    font-size: 0.9375rem;
  }
`;
const Links = styled.p`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.5rem 1.25rem;
  &.save {
    padding-top: 0.6rem;
  }
`;
const Wide = styled.div`
  overflow-x: auto;
`;

const PERIODS = [
  { id: "1", words: "1 week" },
  { id: "4", words: "4 weeks" },
  { id: "12", words: "12 weeks" },
] as const;
type Weeks = (typeof PERIODS)[number]["id"];

type Props = { instrument: string; method: string };

export function GettingOn({ instrument, method }: Props) {
  const [weeks, setWeeks] = useState<Weeks>("4");
  const query = { weeks: Number(weeks), instrument, method };
  const progress = useQuery({
    queryKey: ["progress", query],
    queryFn: () => said(api.GET("/api/progress", { params: { query } })),
    placeholderData: (before) => before,
  });
  const page = progress.data;
  if (progress.error) return <Notice>{progress.error.message}</Notice>;
  if (!page || (page.heard.length === 0 && page.strings.length === 0 && page.known.length === 0))
    return null;
  const asked = new URLSearchParams({ weeks, instrument, method });
  const csv = (table: string) => `/api/progress/${table}.csv?${asked}`;
  return (
    <Section aria-label="How you get on">
      <Head>
        <h2>{named(page.says[0] ?? "Nothing was done in this time.")}</h2>
        <Choice label="Compare" value={weeks} options={PERIODS} onChoose={setWeeks} />
      </Head>
      <div className="says">
        {page.says.slice(1).map((sentence) => (
          <p key={sentence}>{named(sentence)}</p>
        ))}
      </div>
      <HeardPicture heard={page.heard} weeks={Number(weeks)} />
      <div>
        <HeardTable page={page} csv={csv("heard")} />
        <Asked page={page} csv={csv("known")} />
        <Strings page={page} csv={csv("strings")} />
        <Judging page={page} csv={csv("judged")} />
        <Methods page={page} csv={csv("methods")} />
        <Weeks page={page} csv={csv("done")} />
      </div>
      <Files pdf={`/api/progress.pdf?${asked}`} />
    </Section>
  );
}

const LEFT = 250;
const RIGHT = 110;
const ROW = 34;
// On a phone names stand above their rows.
const NARROW_LEFT = 8;
const NARROW_ROW = 58;
const NAME = 22;
const TIMES = [0.25, 0.5, 1, 2, 4];
const FARTHEST = 8;

/** What is heard at each drill, as a share of what tuning needs: then, and now. */
function HeardPicture({ heard, weeks }: { heard: Heard[]; weeks: number }) {
  const narrow = useMedia(PHONE);
  const shown = heard.filter((one) => one.now !== null || one.before !== null);
  if (shown.length === 0) return null;
  const [width, left] = narrow ? [420, NARROW_LEFT] : [960, LEFT];
  const place = (share: number) =>
    left +
    ((Math.log2(Math.min(FARTHEST, Math.max(1 / FARTHEST, share))) + 3) / 6) *
      (width - left - RIGHT);
  const each = narrow ? NARROW_ROW : ROW;
  const high = shown.length * each + 34;
  return (
    <Figure>
      <svg
        viewBox={`0 0 ${width} ${high}`}
        role="img"
        aria-label={heard.map((one) => one.says).join(" ")}
      >
        {TIMES.map((share) => (
          <line
            key={share}
            x1={place(share)}
            x2={place(share)}
            y1={narrow ? 20 + NAME / 2 : 4}
            y2={high - 26}
            stroke={share === 1 ? ink.text : ink.line}
            strokeWidth={share === 1 ? 2 : 1}
          />
        ))}
        <text className="quiet" x={place(1)} y={high - 8} textAnchor="middle">
          what tuning needs
        </text>
        <text
          className="quiet"
          x={narrow ? left : place(0.25)}
          y={high - 8}
          textAnchor={narrow ? "start" : "middle"}
        >
          finer
        </text>
        {shown.map((one, row) => {
          const y = (narrow ? 20 + NAME : 20) + row * each;
          const now = one.now === null ? null : place(one.now / one.goal);
          const before = one.before === null ? null : place(one.before / one.goal);
          return (
            <g key={`${one.drill} ${one.where}`}>
              <text className="name" x={0} y={narrow ? y - NAME + 6 : y + 5}>
                {`${one.drill}, ${one.where}`}
              </text>
              {now !== null && before !== null ? (
                <line x1={before} x2={now} y1={y} y2={y} stroke={ink.water} strokeWidth={4} />
              ) : null}
              {before === null ? null : (
                <circle
                  cx={before}
                  cy={y}
                  r={6}
                  fill={ink.paper}
                  stroke={ink.text}
                  strokeWidth={2}
                />
              )}
              {now === null ? null : (
                <>
                  <circle cx={now} cy={y} r={7} fill={ink.text} />
                  <text x={width} y={y + 5} textAnchor="end">
                    {sizeOf(one, one.now)}
                  </text>
                </>
              )}
            </g>
          );
        })}
      </svg>
      <figcaption>
        ● now, ○ {weeks === 1 ? "the week before" : `the ${weeks} weeks before`}
      </figcaption>
    </Figure>
  );
}

const UNITS: Record<string, string> = {
  cents: " cents",
  "beats a second": " a second",
  percent: " %",
};

function sizeOf(one: Heard, size: number | null): string {
  return size === null ? "–" : `${Number(size.toPrecision(2))}${UNITS[one.unit] ?? ""}`;
}

function size(value: number | null, digits = 1): string {
  return value === null ? "–" : value.toFixed(digits);
}

function share(right: number | null, of: number | null): string {
  return of ? `${right ?? 0} of ${of}` : "–";
}

function side(cents: number | null): string {
  if (cents === null) return "–";
  if (Math.abs(cents) < 0.05) return "0";
  return `${Math.abs(cents).toFixed(1)} ${cents < 0 ? "low" : "high"}`;
}

type TableProps = { head: string; columns: string[]; rows: ReactNode[][]; csv: string };

function Folded({ head, columns, rows, csv }: TableProps) {
  if (rows.length === 0) return null;
  return (
    <Fold head={head}>
      <Wide tabIndex={0} role="region" aria-label={head}>
        <Table>
          <thead>
            <tr>
              {columns.map((one) => (
                <th key={one} scope="col">
                  {one}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, number) => (
              <tr key={number}>
                {row.map((cell, place) =>
                  place === 0 ? (
                    <th key={place} scope="row">
                      {cell}
                    </th>
                  ) : (
                    <td key={place}>{cell}</td>
                  ),
                )}
              </tr>
            ))}
          </tbody>
        </Table>
      </Wide>
      <Links className="save">
        <a href={csv} download>
          Save this table (CSV)
        </a>
      </Links>
    </Fold>
  );
}

type PartProps = { page: Page; csv: string };

function HeardTable({ page, csv }: PartProps) {
  return (
    <Folded
      head="What you hear"
      columns={["Drill", "Now", "Most likely between", "Before", "Tuning needs"]}
      csv={csv}
      rows={page.heard.map((one) => [
        `${one.drill}, ${one.where}`,
        sizeOf(one, one.now),
        one.now === null ? "–" : `${sizeOf(one, one.now_low)} and ${sizeOf(one, one.now_high)}`,
        sizeOf(one, one.before),
        sizeOf(one, one.goal),
      ])}
    />
  );
}

function Asked({ page, csv }: PartProps) {
  return (
    <Folded
      head="What you know"
      columns={["Drill", "Right", "Before", "Level"]}
      csv={csv}
      rows={page.known.map((one) => [
        one.drill,
        share(one.right, one.of),
        share(one.right_before, one.of_before),
        `${one.level} of 3`,
      ])}
    />
  );
}

function Strings({ page, csv }: PartProps) {
  return (
    <Folded
      head="String by string"
      columns={["String", "Cents off", "On average", "Times", "Cents off before", "Average before"]}
      csv={csv}
      rows={page.strings.map((one) => [
        `${named(one.label)}, ${one.instrument.replaceAll("-", " ")}`,
        size(one.size_cents),
        side(one.bias_cents),
        one.times ?? "–",
        size(one.size_cents_before),
        side(one.bias_cents_before),
      ])}
    />
  );
}

function Judging({ page, csv }: PartProps) {
  return (
    <Folded
      head="What you say, and what is so"
      columns={["Said", "Right", "Called in tune at", "Right before"]}
      csv={csv}
      rows={page.judged.map((one) => [
        one.said,
        share(one.right, one.of),
        one.cents === null ? "" : `${side(one.cents)} on average`,
        share(one.right_before, one.of_before),
      ])}
    />
  );
}

function Methods({ page, csv }: PartProps) {
  return (
    <Folded
      head="By method"
      columns={["Method", "Cents off", "Last check", "Minutes", "Attempts", "Cents off before"]}
      csv={csv}
      rows={page.methods.map((one) => [
        one.name,
        size(one.size_cents),
        size(one.closing_cents),
        one.seconds === null ? "–" : size(one.seconds / 60),
        one.attempts ?? "–",
        size(one.size_cents_before),
      ])}
    />
  );
}

function Weeks({ page, csv }: PartProps) {
  const day = (iso: string) =>
    new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short" });
  return (
    <Folded
      head="Week by week"
      columns={["From", "Attempts", "Drills", "Cents off", "Minutes", "Moves a string"]}
      csv={csv}
      rows={page.done.map((one) => [
        day(one.begins),
        one.attempts || "–",
        one.sittings || "–",
        size(one.size_cents),
        one.seconds === null ? "–" : size(one.seconds / 60),
        size(one.moves),
      ])}
    />
  );
}

/** The page for a lesson, and all figures, out and in. */
function Files({ pdf }: { pdf: string }) {
  const bringing = useMutation({
    mutationFn: async (file: File) =>
      said(
        api.POST("/api/figures", {
          body: await file.text(),
          bodySerializer: (body) => body,
          headers: { "Content-Type": "text/plain" },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["progress"] });
      void queries.invalidateQueries({ queryKey: ["today"] });
    },
  });
  return (
    <>
      <Links>
        <a href={pdf} download>
          One page for a lesson (PDF)
        </a>
        <a href="/api/figures.csv" download>
          All figures (CSV)
        </a>
        <a href="/api/figures.json" download>
          All figures (JSON)
        </a>
        <FileTrigger
          acceptedFileTypes={[".json", ".csv", "application/json", "text/csv"]}
          onSelect={(files) => files?.[0] && bringing.mutate(files[0])}
        >
          <Button weight="bare">Bring figures in</Button>
        </FileTrigger>
      </Links>
      {bringing.error ? <Notice>{bringing.error.message}</Notice> : null}
      {bringing.data ? <p role="status">{bringing.data.new} new figures.</p> : null}
    </>
  );
}
