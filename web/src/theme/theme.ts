// The tokens of the look. Colours are custom properties, so that light and dark are one switch.

import { createGlobalStyle } from "styled-components";

export const ink = {
  paper: "var(--paper)",
  sheet: "var(--sheet)",
  shade: "var(--shade)",
  text: "var(--text)",
  quiet: "var(--quiet)",
  line: "var(--line)",
  edge: "var(--edge)",
  water: "var(--water)",
  depth: "var(--depth)",
  amber: "var(--amber)",
  /** Of the instrument, and of nothing else. */
  wood: "var(--wood)",
  board: "var(--board)",
  solid: "var(--solid)",
  onSolid: "var(--on-solid)",
};

// In em, so that larger letters ask for the roomier layout as a narrower window does.
export const PHONE = "screen and (max-width: 44.9em)";
export const phone = `@media ${PHONE}`;
export const tablet = "@media screen and (max-width: 68.7em)";

const light = `
  color-scheme: light;
  --paper: #eef4f4; --sheet: #fbfdfd; --shade: #dfe9e9; --text: #10262c; --quiet: #47606a;
  --line: #c3d2d4; --edge: #6b838a; --water: #14717f; --depth: #c9e0e1; --amber: #8f4a06;
  --wood: #f0e2cd; --board: #ddbf93;
  --solid: #12303a; --on-solid: #f6fbfb;`;

const dark = `
  color-scheme: dark;
  --paper: #101b20; --sheet: #16242a; --shade: #1c2e35; --text: #e9f1f1; --quiet: #a4bbc0;
  --line: #30474f; --edge: #78929a; --water: #62c7d0; --depth: #1d444c; --amber: #f0b26a;
  --wood: #2f261c; --board: #4a3a28;
  --solid: #d7ecec; --on-solid: #0d2027;`;

export const GlobalStyle = createGlobalStyle`
  :root { ${light} }
  @media (prefers-color-scheme: dark) { :root:not([data-theme="light"]) { ${dark} } }
  :root[data-theme="dark"] { ${dark} }
  *, *::before, *::after { box-sizing: border-box; }
  html, body, #root { height: 100%; }
  body {
    margin: 0; background: ${ink.paper}; color: ${ink.text};
    font: 400 1rem/1.45 "Figtree Variable", system-ui, sans-serif;
    font-variant-numeric: tabular-nums; -webkit-tap-highlight-color: transparent;
  }
  h1, h2, h3, p, ol, ul, dl, dd, figure { margin: 0; padding: 0; }
  ol, ul { list-style: none; }
  h1 { font-size: 1.75rem; line-height: 1.2; font-weight: 700; letter-spacing: -0.01em; }
  h2 { font-size: 1.125rem; line-height: 1.3; font-weight: 650; }
  a { color: inherit; }
  @media print { :root { ${light} } body { background: white; } }
  .unseen { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
  :focus { outline: none; }
  :focus-visible, [data-focus-visible] { outline: 3px solid ${ink.water}; outline-offset: 2px; }
  @media (prefers-reduced-motion: reduce) { * { transition: none !important; animation: none !important; } }
`;
