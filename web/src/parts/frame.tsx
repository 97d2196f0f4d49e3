import { Suspense, useEffect, useState, useSyncExternalStore } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";
import styled, { css } from "styled-components";
import { NO_DEVICE, player } from "../sound/player";
import { ink, phone, tablet } from "../theme/theme";
import { Button } from "./button";
import { Level } from "./level";
import { HandOn } from "./hand-on";
import { Notice } from "./notice";
import { useLearner } from "./use-learner";

const BAR_TALL = 56;
const Page = styled.div`
  min-height: 100%;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto 1fr;
  &:has(> p[role="status"]) {
    grid-template-rows: auto auto 1fr;
  }
  &:has([data-stand="on"]) > header,
  &:has([data-guided="on"]) > header:not([data-shared]) {
    display: none;
  }
  ${phone} {
    &[data-bar] {
      padding-bottom: calc(${BAR_TALL}px + env(safe-area-inset-bottom));
    }
  }
`;
const Bar = styled.header`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 1.25rem;
  min-height: 56px;
  padding: 0 1.5rem;
  border-bottom: 1.5px solid ${ink.text};
  @media print {
    display: none;
  }
  nav {
    display: flex;
    flex-wrap: wrap; /* where the letters are large */
    gap: 0 0.25rem;
    flex: 1;
  }
  nav a {
    display: flex;
    align-items: center;
    min-height: 44px;
    padding: 0 0.8rem;
    text-decoration: none;
    font-weight: 600;
    border-bottom: 3px solid transparent;
  }
  nav a.active {
    border-bottom-color: ${ink.water};
  }
  nav hr {
    align-self: center;
    width: 1px;
    height: 1.5rem;
    margin: 0 0.4rem;
    border: 0;
    background: ${ink.edge};
  }
  ${tablet} {
    gap: 0 0.5rem;
    nav a {
      padding: 0 0.5rem;
    }
  }
  ${phone} {
    padding: 0 0.6rem;
    justify-content: space-between;
    nav {
      display: none;
    }
  }
`;
/** On a phone the way between the views stands where the thumb is. */
const Foot = styled.nav`
  display: none;
  ${phone} {
    position: fixed;
    z-index: 2;
    inset: auto 0 0 0;
    display: grid;
    grid-auto-flow: column;
    grid-auto-columns: minmax(0, 1fr);
    padding-bottom: env(safe-area-inset-bottom);
    background: ${ink.paper};
    border-top: 1.5px solid ${ink.text};
    a {
      display: grid;
      place-items: center;
      min-height: ${BAR_TALL}px;
      text-decoration: none;
      font-weight: 600;
      font-size: min(
        0.9375rem,
        4.2vw
      ); /* four words beside each other, however large the letters */
      border-top: 3px solid transparent;
    }
    a.active {
      border-top-color: ${ink.water};
    }
  }
  @media print {
    display: none;
  }
`;
const mark = css`
  display: flex;
  align-items: center;
  gap: 0.6rem;
  font-size: 1.25rem;
  font-weight: 750;
  text-decoration: none;
  min-height: 44px;
`;
const Name = styled.div`
  ${mark}
  flex: 1;
`;
const Mark = styled(Link)`
  ${mark}
  ${tablet} {
    span {
      display: none;
    }
  }
  ${phone} {
    span {
      display: inline;
    }
  }
`;
const Tools = styled.div`
  display: flex;
  align-items: center;
  gap: 0.75rem;
  ${phone} {
    button {
      padding: 0 0.2rem;
      font-size: 0.9375rem;
    }
    gap: 0.2rem;
  }
`;

/** Where there is little room the first page has it below. */
const Mine = styled(NavLink)`
  display: flex;
  align-items: center;
  min-height: 44px;
  padding: 0 0.5rem;
  font-weight: 600;
  text-decoration: none;
  &.active {
    border-bottom: 3px solid ${ink.water};
  }
  ${tablet} {
    display: none;
  }
`;

/** On a device that pupils share: whose turn it is. */
const Whose = styled.div`
  flex: 1 0 100%;
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 1rem;
  min-height: 52px;
  border-top: 1px solid ${ink.line};
  a {
    display: inline-grid;
    align-content: center;
    min-height: 44px;
    font-weight: 600;
  }
`;

const Insecure = styled(Notice)`
  margin: 0.75rem 1.5rem;
  ${phone} {
    margin: 0.75rem 1rem;
  }
`;

type Theme = "light" | "dark";
const THEME_KEY = "meldrin:theme";

function preferred(): Theme {
  const stored = localStorage.getItem(THEME_KEY);
  if (stored === "light" || stored === "dark") return stored;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

type View = { to: string; words: string };
const VIEWS: readonly View[] = [
  { to: "/", words: "Today" },
  { to: "/tune", words: "Tune" },
  { to: "/listen", words: "Listen" },
  { to: "/instruments", words: "Instruments" },
  { to: "/review", words: "Review" },
];
const TEACH: View = { to: "/teach", words: "Teach" };
/** While something is practised, the way to other views steps back. */
const PRACTISING = /^\/(tune|listen|round)\/./;

/** What a phone has room for: Review stands within Today, and Listen within Tune for who teaches. */
function onPhone(teaches: boolean): readonly View[] {
  const shown = VIEWS.filter(({ words }) => words !== "Review");
  return teaches ? shown.map((one) => (one.words === "Listen" ? TEACH : one)) : shown;
}

/** The bar above every view, and the view below it. */
export function Frame() {
  const [theme, setTheme] = useState(preferred);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  const { pathname } = useLocation();
  const isMute = useSyncExternalStore(player.onMute, () => player.isMute);
  const learner = useLearner();
  const [opened, setOpened] = useState(false);
  const teaches = learner.data?.teaches ?? false;
  const shared = learner.data?.shared ?? false;
  // Who comes for the first time has one thing to press; the rest is behind a word.
  const isFirst = pathname === "/" && learner.data?.who === "newcomer" && !shared && !opened;
  const mayTeach = learner.data?.who === "newcomer" || learner.data?.who === "guest";
  const other = theme === "light" ? "dark" : "light";
  const bar = !isFirst && !PRACTISING.test(pathname);
  return (
    <Page data-bar={bar ? "" : undefined}>
      <Bar data-shared={shared ? "" : undefined}>
        {isFirst ? (
          <Name>
            <img src="/mark.svg" width="32" height="32" alt="" />
            <span>Meldrin</span>
          </Name>
        ) : (
          <Mark to="/" aria-label="Meldrin, first page">
            <img src="/mark.svg" width="32" height="32" alt="" />
            <span>Meldrin</span>
          </Mark>
        )}
        {isFirst ? null : (
          <nav aria-label="Views">
            {teaches ? (
              <>
                <ViewLink {...TEACH} />
                <hr aria-hidden="true" />
              </>
            ) : null}
            {VIEWS.map((view) => (
              <ViewLink key={view.to} {...view} />
            ))}
            {mayTeach && !shared ? (
              <>
                <hr aria-hidden="true" />
                <ViewLink {...TEACH} />
              </>
            ) : null}
          </nav>
        )}
        <Tools>
          {isFirst || shared ? null : <Mine to="/account">My work</Mine>}
          <Level />
          {isFirst ? (
            <Button weight="bare" onPress={() => setOpened(true)}>
              More
            </Button>
          ) : (
            <Button
              weight="bare"
              onPress={() => {
                localStorage.setItem(THEME_KEY, other);
                setTheme(other);
              }}
            >
              {theme === "light" ? "Dark" : "Light"}
            </Button>
          )}
        </Tools>
        {shared && pathname !== "/shared" ? (
          <Whose>
            {learner.data?.who === "learner" || learner.data?.who === "guest" ? (
              <HandOn name={learner.data.name ?? "Somebody without a name"} />
            ) : (
              <Link to="/shared">Who are you?</Link>
            )}
          </Whose>
        ) : null}
      </Bar>
      {window.isSecureContext ? null : (
        <Insecure>
          Only the drills under Listen sound here: for the rest, browsers ask that a page comes by
          https. Whoever looks after this server finds how in its docs/DEPLOY.md.
        </Insecure>
      )}
      {isMute ? <Insecure>{NO_DEVICE}</Insecure> : null}
      <Suspense fallback={null}>
        <Outlet />
      </Suspense>
      {bar ? (
        <Foot aria-label="Views">
          {onPhone(teaches).map((view) => (
            <ViewLink key={view.to} {...view} />
          ))}
        </Foot>
      ) : null}
    </Page>
  );
}

function ViewLink({ to, words }: View) {
  return (
    <NavLink to={to} end={to === "/"}>
      {words}
    </NavLink>
  );
}
