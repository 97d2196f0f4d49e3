import { Suspense, useEffect, useState, useSyncExternalStore } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";
import styled from "styled-components";
import { NO_DEVICE, player } from "../sound/player";
import { ink, phone, tablet } from "../theme/theme";
import { Button } from "./button";
import { Level } from "./level";
import { HandOn } from "./hand-on";
import { Notice } from "./notice";
import { useLearner } from "./use-learner";

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
  ${phone} {
    padding: 0 0.6rem;
    gap: 0 0.2rem;
    &[data-many] > a {
      display: none; /* Prepare leads to the first page too */
    }
    nav {
      gap: 0;
    }
    nav a {
      padding: 0 0.3rem;
      font-size: 0.875rem;
    }
  }
`;
const Mark = styled(Link)`
  display: flex;
  align-items: center;
  gap: 0.6rem;
  font-size: 1.25rem;
  font-weight: 750;
  text-decoration: none;
  min-height: 44px;
  ${phone} {
    span {
      display: none;
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

const current = { "aria-current": "page" } as const;

/** The bar above every view, and the view below it. */
export function Frame() {
  const [theme, setTheme] = useState(preferred);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  const { pathname } = useLocation();
  const isMute = useSyncExternalStore(player.onMute, () => player.isMute);
  const preparing = pathname === "/" || pathname.startsWith("/prepare");
  const learner = useLearner();
  const other = theme === "light" ? "dark" : "light";
  return (
    <Page>
      <Bar
        data-many={learner.data?.teaches ? "" : undefined}
        data-shared={learner.data?.shared ? "" : undefined}
      >
        <Mark to="/" aria-label="Meldrin, first page">
          <img src="/mark.svg" width="32" height="32" alt="" />
          <span>Meldrin</span>
        </Mark>
        <nav aria-label="Views">
          <Link to="/" className={preparing ? "active" : ""} {...(preparing ? current : {})}>
            Prepare
          </Link>
          <NavLink to="/tune">Tune</NavLink>
          <NavLink to="/listen">Listen</NavLink>
          <NavLink to="/review">Review</NavLink>
          {learner.data?.teaches ? <NavLink to="/teach">Teach</NavLink> : null}
        </nav>
        <Tools>
          {learner.data?.shared ? null : <Mine to="/account">My work</Mine>}
          <Level />
          <Button
            weight="bare"
            onPress={() => {
              localStorage.setItem(THEME_KEY, other);
              setTheme(other);
            }}
          >
            {theme === "light" ? "Dark" : "Light"}
          </Button>
        </Tools>
        {learner.data?.shared && pathname !== "/shared" ? (
          <Whose>
            {learner.data.who === "learner" || learner.data.who === "guest" ? (
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
    </Page>
  );
}
