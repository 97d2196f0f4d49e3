// A check before a concert: every open string of a group on one waterline, whom to help first, and
// what the agreed fifths mean.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { Amount, Typed } from "../../parts/entry";
import { Choices, Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { ink, phone } from "../../theme/theme";
import { howFar } from "../../words/formats";
import { named } from "../../words/notes";
import { ConcertPicture } from "./concert-picture";
import { Buttons, Lines, Main, Part, Quiet, Scroll, Two, Way } from "./layout";
import { useChange, useThisStudio } from "./use-studio";

type Page = Schemas["EnsemblePage"];
type Player = Page["players"][number];

const Says = styled.h1`
  font-size: 2rem;
  text-wrap: balance;
`;
const Cells = styled(Table)`
  td button {
    min-width: 5.5rem;
  }
  ${phone} {
    thead {
      display: none;
    }
    tr {
      display: grid;
      grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
      align-items: center;
      padding: 0.6rem 0;
      border-bottom: 1px solid ${ink.line};
    }
    th,
    td {
      padding: 0;
      border: 0;
    }
    td:last-child {
      grid-column: 1 / -1;
      padding-top: 0.5rem;
    }
    td > div {
      gap: 0.4rem;
    }
    td > div > button {
      min-width: 4.9rem;
      padding: 0.4rem 0.5rem;
    }
  }
`;

const Fields = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(9rem, 1fr));
  gap: 0.75rem;
  margin: 1rem 0;
`;

const EVERYONE = "";

export function Concert() {
  const studio = useThisStudio();
  const { concert = "" } = useParams();
  const path = { params: { path: { studio_id: studio.id, ensemble_id: concert } } };
  const page = useQuery({
    queryKey: ["studio", studio.id, "concert", concert],
    queryFn: () => said(api.GET("/api/studios/{studio_id}/ensembles/{ensemble_id}", path)),
  });
  if (page.error)
    return (
      <Main>
        <Notice>{page.error.message}</Notice>
      </Main>
    );
  if (!page.data) return <Main />;
  return <Shown page={page.data} />;
}

function Shown({ page }: { page: Page }) {
  const studio = useThisStudio();
  const [typing, setTyping] = useState<{ player: Player; string: number } | null>(null);
  const [agreeing, setAgreeing] = useState(false);
  const at = page.players.findIndex((one) => one.id === typing?.player.id);
  const next = at < 0 ? undefined : page.players[at + 1];
  return (
    <Main>
      <Two>
        <Part>
          <Quiet>
            {page.name} · {page.group_name} · A = {page.a4_hz} Hz
          </Quiet>
          <Says>{named(page.says)}</Says>
          <ConcertPicture players={page.players} />
          <Scroll>
            <Cells>
              <caption>Press a string to type in what a tuner at this A shows</caption>
              <thead>
                <tr>
                  <th scope="col">Pupil</th>
                  <th scope="col">Plays</th>
                  <th scope="col">Strings</th>
                </tr>
              </thead>
              <tbody>
                {page.players.map((one) => (
                  <tr key={one.id}>
                    <th scope="row">{one.name}</th>
                    <td>
                      <Plays page={page} player={one} />
                    </td>
                    <td>
                      <Buttons>
                        {lowestFirst(one).map((each) => (
                          <Button
                            key={each.string}
                            aria-label={`${one.name}, ${named(each.label)}: ${standsWords(each.off_cents)}`}
                            onPress={() => setTyping({ player: one, string: each.string })}
                          >
                            {named(each.label)} {signed(each.off_cents)}
                          </Button>
                        ))}
                      </Buttons>
                    </td>
                  </tr>
                ))}
              </tbody>
            </Cells>
          </Scroll>
        </Part>
        <Part>
          {page.help_first.length > 0 ? (
            <>
              <h2>Whom to help first</h2>
              <Lines aria-label="Whom to help first">
                {page.help_first.slice(0, 3).map((place) => {
                  const one = page.players[place];
                  return one ? (
                    <li key={one.id}>
                      <span>
                        <strong>{one.name}</strong>
                        <small>{named(one.says)}</small>
                      </span>
                    </li>
                  ) : null;
                })}
              </Lines>
            </>
          ) : null}
          <h2>What is agreed</h2>
          <Lines aria-label="What is agreed">
            {page.fifths.map((one) => (
              <li key={one}>
                <span>{named(one)}</span>
              </li>
            ))}
          </Lines>
          <Buttons>
            <Button onPress={() => setAgreeing(true)}>Agree on something else</Button>
            <Way href={`/api/studios/${studio.id}/ensembles/${page.id}/slips.pdf`} download>
              Save the slips as PDF
            </Way>
          </Buttons>
        </Part>
      </Two>
      {typing ? (
        <TypeIn
          key={`${typing.player.id} ${typing.string}`}
          page={page}
          {...typing}
          onClose={() => setTyping(null)}
          onNext={next ? () => setTyping({ player: next, string: firstOf(next) }) : null}
        />
      ) : null}
      {agreeing ? <Agree page={page} onClose={() => setAgreeing(false)} /> : null}
    </Main>
  );
}

/** As the picture has them. */
const lowestFirst = (player: Player) => player.strings.toReversed();
const firstOf = (player: Player) => player.strings.at(-1)?.string ?? 1;

const standsWords = (cents: number | null) => (cents === null ? "not known" : howFar(cents));

function signed(cents: number | null): string {
  if (cents === null) return "–";
  const rounded = Number(cents.toFixed(1));
  return rounded === 0 ? "0" : `${rounded > 0 ? "+" : "−"}${Math.abs(rounded).toFixed(1)}`;
}

function Plays({ page, player }: { page: Page; player: Player }) {
  const studio = useThisStudio();
  const instruments = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const set = useChange((instrument: string) =>
    said(
      api.PUT("/api/studios/{studio_id}/ensembles/{ensemble_id}/players/{member_id}", {
        params: {
          path: { studio_id: studio.id, ensemble_id: page.id, member_id: player.id },
        },
        body: { instrument },
      }),
    ),
  );
  return (
    <>
      <Pick
        label={`What ${player.name} plays`}
        isLabelUnseen
        value={player.instrument}
        options={(instruments.data ?? [])
          .filter((one) => !one.own)
          .map((one) => ({ id: one.id, words: one.name }))}
        onPick={(id) => set.mutate(id)}
      />
      {set.error ? <Notice>{set.error.message}</Notice> : null}
    </>
  );
}

type TypeInProps = {
  page: Page;
  player: Player;
  /** The string to begin with. */
  string: number;
  onClose: () => void;
  /** Goes on to the next pupil, where there is one. */
  onNext: (() => void) | null;
};

/** What a tuner shows of a pupil's strings. */
function TypeIn({ page, player, string, onClose, onNext }: TypeInProps) {
  const studio = useThisStudio();
  const [typed, setTyped] = useState<Record<number, number | null>>({});
  const keep = useChange(() =>
    said(
      api.PUT("/api/studios/{studio_id}/ensembles/{ensemble_id}/players/{member_id}/strings", {
        params: {
          path: { studio_id: studio.id, ensemble_id: page.id, member_id: player.id },
        },
        body: Object.entries(typed).map(([string, cents]) => ({ string: Number(string), cents })),
      }),
    ),
  );
  const keepAnd = (then: () => void) => keep.mutate(undefined, { onSuccess: then });
  return (
    <Dialog title={`${player.name}, ${player.instrument_name}`} isOpen onClose={onClose}>
      <Quiet>Set the tuner to A = {page.a4_hz} Hz, and type in the cents it shows.</Quiet>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          keepAnd(onNext ?? onClose);
        }}
      >
        <Fields>
          {lowestFirst(player).map((one) => (
            <Amount
              key={one.string}
              label={`${named(one.label)} (wanted: ${signed(one.wanted_cents)})`}
              value={one.string in typed ? (typed[one.string] ?? null) : shownBy(one)}
              low={-200}
              high={200}
              step={0.1}
              isFirst={one.string === string}
              onEnter={(cents) => setTyped((before) => ({ ...before, [one.string]: cents }))}
              onEmpty={() => setTyped((before) => ({ ...before, [one.string]: null }))}
            />
          ))}
        </Fields>
        {keep.error ? <Notice>{keep.error.message}</Notice> : null}
        <Choices>
          <Button onPress={onClose}>Cancel</Button>
          {onNext ? (
            <Button isDisabled={keep.isPending} onPress={() => keepAnd(onClose)}>
              Keep
            </Button>
          ) : null}
          <Button weight="solid" type="submit" isDisabled={keep.isPending}>
            {onNext ? "Keep, next pupil" : "Keep"}
          </Button>
        </Choices>
      </form>
    </Dialog>
  );
}

/** What a tuner would show of a string, as far as it is known. */
const shownBy = (one: Player["strings"][number]) =>
  one.off_cents === null ? null : Number((one.off_cents + one.wanted_cents).toFixed(1));

const FIFTHS = [
  { id: "0", words: "Pure: they stand still" },
  { id: "-1", words: "1 cent narrower than pure" },
  { id: "-1.955", words: "As in equal temperament" },
  { id: "-3", words: "3 cents narrower than pure" },
  { id: "1", words: "1 cent wider than pure" },
];

function Agree({ page, onClose }: { page: Page; onClose: () => void }) {
  const studio = useThisStudio();
  const navigate = useNavigate();
  const [wanted, setWanted] = useState({
    name: page.name,
    group: page.group,
    a4_hz: page.a4_hz,
    fifth_cents: page.fifth_cents,
  });
  const path = { params: { path: { studio_id: studio.id, ensemble_id: page.id } } };
  const keep = useChange(
    () =>
      said(api.PUT("/api/studios/{studio_id}/ensembles/{ensemble_id}", { ...path, body: wanted })),
    onClose,
  );
  const erase = useChange(
    () => said(api.DELETE("/api/studios/{studio_id}/ensembles/{ensemble_id}", path)),
    () => navigate(`/teach/${studio.id}/concerts`),
  );
  const problem = keep.error ?? erase.error;
  return (
    <Dialog title="What the group agrees on" isOpen onClose={onClose}>
      <AgreedFields wanted={wanted} onChange={setWanted} />
      {problem ? <Notice>{problem.message}</Notice> : null}
      <Choices>
        <Button onPress={() => erase.mutate(undefined)}>Erase this check</Button>
        <Button onPress={onClose}>Cancel</Button>
        <Button weight="solid" isDisabled={keep.isPending} onPress={() => keep.mutate(undefined)}>
          Keep it
        </Button>
      </Choices>
    </Dialog>
  );
}

export type AgreedWanted = {
  name: string;
  group: string | null;
  a4_hz: number;
  fifth_cents: number;
};

type FieldsProps = { wanted: AgreedWanted; onChange: (wanted: AgreedWanted) => void };

/** What a group agrees on. */
export function AgreedFields({ wanted, onChange }: FieldsProps) {
  const studio = useThisStudio();
  const known = FIFTHS.some((one) => Number(one.id) === wanted.fifth_cents);
  return (
    <>
      <Typed
        label="What it is for"
        value={wanted.name}
        most={40}
        placeholder="Spring concert"
        onType={(name) => onChange({ ...wanted, name })}
        onDone={() => undefined}
      />
      <Pick
        label="Who plays"
        value={wanted.group ?? EVERYONE}
        options={[
          { id: EVERYONE, words: "All pupils" },
          ...studio.groups.map((one) => ({ id: one.id, words: one.name })),
        ]}
        onPick={(id) => onChange({ ...wanted, group: id === EVERYONE ? null : id })}
      />
      <Amount
        label="The A, in Hz"
        value={wanted.a4_hz}
        low={390}
        high={470}
        step={0.1}
        onEnter={(a4_hz) => onChange({ ...wanted, a4_hz })}
      />
      <Pick
        label="The fifths of the bowed strings"
        value={String(wanted.fifth_cents)}
        options={
          known
            ? FIFTHS
            : [
                ...FIFTHS,
                { id: String(wanted.fifth_cents), words: `${wanted.fifth_cents} cents from pure` },
              ]
        }
        onPick={(id) => onChange({ ...wanted, fifth_cents: Number(id) })}
      />
    </>
  );
}
