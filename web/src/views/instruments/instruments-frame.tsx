import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Outlet, useLocation, Link } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Amount, Entry } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { ink, phone, tablet } from "../../theme/theme";
import { OWN_NOTES, useAsked } from "./asked";
import type { Prepared } from "./prepared";
import { OwnInstruments } from "./own-instruments";
import { Tunings } from "./tunings";
import { optionsOf } from "../../words/names";
import { type Naming, naming, setNaming } from "../../words/notes";

const STEPS = [
  { path: "before", words: "Before you start" },
  { path: "method", words: "Choose a method" },
  { path: "fitness", words: "Check the instrument" },
  { path: "plan", words: "Plan" },
  { path: "compare", words: "Compare methods" },
  { path: "retune", words: "Retune" },
] as const;
const CALIBRATIONS = [415, 430, 432, 440, 442, 443];

const Main = styled.main`
  display: grid;
  align-content: start;
  min-width: 0;
`;
const Top = styled.div`
  background: ${ink.sheet};
  border-bottom: 1.5px solid ${ink.line};
  padding: 0.75rem 1.5rem 0;
  display: grid;
  gap: 0.6rem;
  ${phone} {
    padding: 0.6rem 1rem 0;
  }
  @media print {
    display: none;
  }
`;
const Choices = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 2fr) minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 0.75rem 1rem;
  max-width: 72rem;
  align-items: end;
  .own {
    grid-column: 1 / -1;
  }
  ${tablet} {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  ${phone} {
    gap: 0.5rem 0.75rem;
  }
`;
const Steps = styled.nav`
  display: flex;
  gap: 0.25rem;
  margin-left: -0.8rem;
  overflow-x: auto;
  a {
    flex: none;
    display: flex;
    align-items: center;
    min-height: 44px;
    padding: 0 0.8rem;
    text-decoration: none;
    border-bottom: 3px solid transparent;
    color: ${ink.quiet};
    font-weight: 600;
  }
  a[aria-current] {
    color: ${ink.text};
    border-bottom-color: ${ink.water};
  }
  ${phone} {
    margin: 0 -1rem;
    padding: 0 0.5rem;
    a {
      padding: 0 0.6rem;
    }
  }
`;
const Body = styled.div`
  padding: 1.25rem 1.5rem 2rem;
  display: grid;
  min-width: 0;
  ${phone} {
    padding: 1rem 1rem 2rem;
  }
  @media print {
    padding: 0;
  }
`;

const OWN = "own-file";

/** What all of Instruments shares: the instrument, its tuning, the calibration, and the way through. */
export function InstrumentsFrame() {
  const [asked, change] = useAsked();
  const [called, setCalled] = useState(naming);
  const { search, pathname } = useLocation();
  const catalogue = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Infinity,
  });
  const instrument =
    catalogue.data?.find((one) => one.id === asked.instrument) ?? catalogue.data?.[0];
  const [bringing, setBringing] = useState(false);
  const take = (id: string) =>
    change({
      instrument: id,
      tuning: "standard",
      from: "standard",
      notes: "",
      method: "",
      start: "",
      tonic: "",
      pegs: "",
    });
  const steps = useRef<HTMLElement>(null);
  useEffect(() => {
    const here = steps.current?.querySelector("[aria-current]");
    here?.scrollIntoView({ block: "nearest", inline: "center" });
  }, [pathname, instrument]);
  // All of it comes at once: what can be pressed does not move when the rest arrives.
  if (!instrument) {
    return (
      <Main>
        <Body>
          {catalogue.error ? <Notice>{catalogue.error.message}</Notice> : <p>One moment …</p>}
        </Body>
      </Main>
    );
  }
  return (
    <Main>
      <Top>
        <Choices>
          <Pick
            label="Instrument"
            value={instrument.id === asked.instrument ? instrument.id : null}
            options={[
              ...(catalogue.data ?? []).map((one) => ({ id: one.id, words: one.name })),
              { id: OWN, words: "Your own, from a file …" },
            ]}
            onPick={(id) => (id === OWN ? setBringing(true) : take(id))}
          />
          <Tunings label="Tuning" instrument={instrument} value={asked.tuning} onPick={change} />
          <Calibration asked={asked} change={change} />
          <Pick
            className="a4"
            label="Notes"
            value={called}
            options={optionsOf<Naming>("namings")}
            onPick={(id) => {
              setNaming(id);
              setCalled(id);
            }}
          />
          {asked.tuning === OWN_NOTES ? (
            <div className="own">
              <Entry
                label="Your notes, from the last string to the first"
                value={asked.notes}
                placeholder={instrument.tunings[0]?.notes ?? ""}
                onEnter={(notes) => change({ notes })}
              />
            </div>
          ) : null}
        </Choices>
        <Steps ref={steps} aria-label="Parts of Instruments">
          {STEPS.map((step) => (
            <Link
              key={step.path}
              to={{ pathname: `/instruments/${step.path}`, search }}
              {...(pathname.endsWith(step.path) ? { "aria-current": "page" as const } : {})}
            >
              {step.words}
            </Link>
          ))}
        </Steps>
      </Top>
      <OwnInstruments
        catalogue={catalogue.data ?? []}
        instrument={instrument}
        isOpen={bringing}
        onClose={() => setBringing(false)}
        onBrought={(id) => {
          setBringing(false);
          take(id);
        }}
      />
      <Body>
        {/(plan|before)$/.test(pathname) ? null : (
          <h1 className="unseen">{STEPS.find((step) => pathname.endsWith(step.path))?.words}</h1>
        )}
        {instrument.id === asked.instrument ? (
          <Outlet context={{ instrument, asked, change } satisfies Prepared} />
        ) : (
          <Notice>There is no instrument “{asked.instrument}”. Choose one above.</Notice>
        )}
      </Body>
    </Main>
  );
}

function Calibration({ asked, change }: Omit<Prepared, "instrument">) {
  const usual = CALIBRATIONS.includes(asked.a4_hz);
  if (!usual)
    return (
      <Amount
        label="A4, in Hz (390 to 470)"
        value={asked.a4_hz}
        low={390}
        high={470}
        step={0.1}
        onEnter={(a4_hz) => change({ a4_hz })}
      />
    );
  return (
    <Pick
      className="a4"
      label="A4"
      value={String(asked.a4_hz)}
      options={[
        ...CALIBRATIONS.map((hz) => ({ id: String(hz), words: `${hz} Hz` })),
        { id: "other", words: "Another …" },
      ]}
      onPick={(id) => change({ a4_hz: id === "other" ? 441 : Number(id) })}
    />
  );
}
