// Words of the glossary inside a text: underlined, and told on a press.

import { Button, Dialog, DialogTrigger, Popover } from "react-aria-components";
import { Link } from "react-router";
import styled from "styled-components";
import { ink } from "../theme/theme";
import { cutAtTerms } from "../words/terms";
import { WordPart } from "./word-part";

const Underlined = styled(Button)`
  all: unset;
  display: inline;
  /* as tall as any press, in a line that stays as it is */
  padding-block: 0.82rem;
  margin-block: -0.82rem;
  cursor: pointer;
  text-decoration: underline dotted;
  text-underline-offset: 0.2em;
  &[data-focus-visible] {
    outline: 2.5px solid ${ink.water};
    outline-offset: 2px;
    border-radius: 2px;
  }
`;
const Sheet = styled(Popover)`
  width: min(22rem, 92vw);
  border: 1.5px solid ${ink.edge};
  border-radius: 8px;
  background: ${ink.sheet};
  color: ${ink.text};
  font-size: 1rem;
`;
const Body = styled(Dialog)`
  display: grid;
  gap: 0.6rem;
  padding: 0.9rem 1rem;
  outline: none;
`;

/** A text in which every word of the glossary can be pressed. */
export function Terms({ text }: { text: string }) {
  return cutAtTerms(text).map((part, place) =>
    typeof part === "string" ? (
      part
    ) : (
      // the same word stands once in a text
      <DialogTrigger key={`${part.word.id} ${place}`}>
        <Underlined>{part.written}</Underlined>
        <Sheet placement="bottom">
          <Body aria-label={part.word.words[0] ?? part.written}>
            <WordPart word={part.word} />
            <Link to="/words">All words</Link>
          </Body>
        </Sheet>
      </DialogTrigger>
    ),
  );
}
