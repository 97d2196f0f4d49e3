import type { ReactNode } from "react";
import styled from "styled-components";
import type { Plan } from "../../api/client";
import { ink, phone, tablet } from "../../theme/theme";
import { capital } from "../../words/formats";
import { Terms } from "../../parts/terms";

type Step = Plan["steps"][number];

const Card = styled.article`
  display: grid;
  grid-template-columns: minmax(0, 7fr) minmax(0, 3fr);
  gap: 0 3rem;
  align-items: start;
  min-width: 0;
  header {
    grid-column: 1 / -1;
    padding-bottom: 0.6rem;
    border-bottom: 1.5px solid ${ink.text};
  }
  header {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    justify-content: space-between;
    gap: 0.25rem 1.5rem;
  }
  header p {
    color: ${ink.quiet};
    flex-basis: 100%;
  }
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
  @media print {
    grid-template-columns: minmax(0, 1fr);
    font-size: 12pt;
    line-height: 1.25;
    h1 {
      font-size: 20pt;
    }
  }
`;
const Steps = styled.ol`
  & > li {
    display: grid;
    grid-template-columns: 2rem minmax(0, 1fr) 11.5rem;
    gap: 0 0.75rem;
    padding: 0.65rem 0;
    border-bottom: 1px solid ${ink.line};
    break-inside: avoid;
  }
  .place {
    font-size: 1.5rem;
    font-weight: 700;
    color: ${ink.water};
    line-height: 1.15;
  }
  h2 {
    margin: 0;
    font-size: 1.0625rem;
  }
  ul {
    color: ${ink.quiet};
    font-size: 0.9375rem;
    line-height: 1.35;
  }
  summary {
    cursor: pointer;
    padding: 0.35rem 0;
  }
  dl {
    margin: 0 0 0.5rem;
  }
  dd {
    margin: 0 0 0.3rem;
    color: ${ink.text};
    font-variant-numeric: tabular-nums;
  }
  .caution {
    color: ${ink.amber};
    font-size: 0.9375rem;
  }
  ${phone} {
    & > li {
      grid-template-columns: 2rem minmax(0, 1fr);
    }
    ul {
      grid-column: 2;
      margin-top: 0.3rem;
    }
  }
  @media print {
    & > li {
      padding: 0.25rem 0;
      grid-template-columns: 1.6rem minmax(0, 1fr) 12rem;
    }
    h2 {
      font-size: 13pt;
    }
    ul,
    .caution {
      font-size: 12pt;
      line-height: 1.25;
    }
  }
`;
const Side = styled.div`
  display: grid;
  gap: 1.25rem;
  padding-top: 0.75rem;
  h2 {
    margin: 0 0 0.3rem;
    font-size: 1.0625rem;
  }
  li + li {
    margin-top: 0.5rem;
  }
  p + p {
    margin-top: 0.4rem;
  }
  .quiet {
    color: ${ink.quiet};
  }
  @media print {
    gap: 0.5rem;
    padding-top: 0.4rem;
    h2 {
      font-size: 13pt;
      margin: 0;
    }
    li + li,
    p + p {
      margin-top: 0.15rem;
    }
  }
`;

/** The plan on one page: what to do, in sentences; what to measure, in numbers beside them. */
export function PlanCard({ plan, children }: { plan: Plan; children?: ReactNode }) {
  return (
    <Card aria-label="The plan">
      <header>
        <h1>
          {plan.instrument_name}, {plan.tuning_name.toLowerCase()}
        </h1>
        {children}
        <p>
          {plan.method_name} · {plan.temperament} · A4 = {plan.a4_hz} Hz
        </p>
        <p className="quiet">{plan.care}</p>
      </header>
      <Steps>
        {plan.steps.map((step, index) => (
          <StepRow key={step.index} step={step} before={plan.steps[index - 1]} />
        ))}
      </Steps>
      <Side>
        {plan.checks.length > 0 ? (
          <section>
            <h2>At the end</h2>
            <ul>
              {plan.checks.map((check) => (
                <li key={check.index}>
                  <strong>{check.title}.</strong> <Terms text={check.instruction} />
                </li>
              ))}
            </ul>
          </section>
        ) : null}
        <Cost plan={plan} />
        <Expected plan={plan} />
        <p className="quiet">{plan.marked_words}</p>
      </Side>
    </Card>
  );
}

function StepRow({ step, before }: { step: Step; before: Step | undefined }) {
  return (
    <li>
      <span className="place">{step.index}</span>
      <div>
        <h2>{step.title}</h2>
        <p>
          <Terms text={step.instruction} />
        </p>
        {step.caution && step.caution !== before?.caution ? (
          <p className="caution">{step.caution}</p>
        ) : null}
      </div>
      <ul>
        <li>{step.interval}</li>
        <li>
          <details>
            <summary>Numbers</summary>
            <dl>
              <dt>The partials meet at</dt>
              <dd>{step.meeting_hz.toFixed(1)} Hz</dd>
              <dt>In tune they beat</dt>
              <dd>
                {step.beats_hz < 0.005
                  ? "not at all"
                  : `${step.beats_hz.toFixed(2)} times a second`}
              </dd>
              <dt>Each cent out adds</dt>
              <dd>{step.beats_hz_per_cent.toFixed(2)} beats a second</dd>
              <dt>Listen for</dt>
              <dd>{(step.seconds_to_hear ?? 0).toFixed(1)} seconds</dd>
            </dl>
          </details>
        </li>
      </ul>
    </li>
  );
}

/** What offsets chosen for some intervals do to the others. */
function Cost({ plan }: { plan: Plan }) {
  const sour = plan.intervals.filter((one) => one.sour);
  if (!plan.chosen || sour.length === 0) return null;
  const label = (number: number) => plan.strings.find((one) => one.number === number)?.label ?? "";
  return (
    <section>
      <h2>What the offsets cost</h2>
      <ul>
        {sour.map((one) => (
          <li key={`${one.lower}-${one.upper}`}>
            {capital(label(one.lower))} with {label(one.upper)}, {one.name}:{" "}
            {cents(Math.abs(one.against_pure_cents))}{" "}
            {one.against_pure_cents > 0 ? "wider" : "narrower"} than pure
          </li>
        ))}
      </ul>
    </section>
  );
}

function Expected({ plan }: { plan: Plan }) {
  const { expected } = plan;
  const label = (number: number) => plan.strings.find((one) => one.number === number)?.label ?? "";
  const extra = expected.extra_check;
  const bias = expected.end_to_end_bias_cents;
  return (
    <section>
      <h2>What to expect</h2>
      <p>
        In this order the worst string ends within about ±{cents(expected.order_sd_cents)} two times
        out of three. String after string it would be ±{cents(expected.chain_sd_cents)}, all from
        one string ±{cents(expected.star_sd_cents)}
        {expected.harmonics_sd_cents === null
          ? ""
          : `, by harmonics ±${cents(expected.harmonics_sd_cents)}`}
        .
      </p>
      {Math.abs(bias) >= 0.05 ? (
        <p>
          A heavy finger adds {cents(Math.abs(bias))} {bias > 0 ? "too wide" : "too narrow"} from
          end to end.
        </p>
      ) : null}
      {extra ? (
        <p>
          The most useful check:{" "}
          {extra.lower === null
            ? `${label(extra.upper)} against a note or a reading of its own`
            : `${label(extra.lower)} with ${label(extra.upper)}, ${
                extra.fret === null
                  ? `${extra.interval}, partials ${extra.partials.join(" and ")}`
                  : `at fret ${extra.fret}`
              }`}
          . The worst string is then at ±{cents(extra.sd_cents)}.
        </p>
      ) : null}
    </section>
  );
}

function cents(value: number): string {
  const size = value.toFixed(1);
  return `${size} ${size === "1.0" ? "cent" : "cents"}`;
}
