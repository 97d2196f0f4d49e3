// Pictures of the glossary, in the water's plain lines.

import type { ReactNode } from "react";
import { ink } from "../theme/theme";
import type { Word } from "../words/terms";

type See = NonNullable<Word["see"]>;

const line = { fill: "none", stroke: "currentColor", strokeWidth: 2 } as const;
const bar = { stroke: "currentColor", strokeWidth: 5 } as const;
const swing = { fill: ink.water, opacity: 0.35 } as const;

const PICTURES: Record<See, { words: string; drawn: ReactNode }> = {
  node: {
    words: "A string that swings in three parts, with two places that stand still.",
    drawn: (
      <>
        <path
          d="M10 50Q60 15 110 50Q160 85 210 50Q260 15 310 50Q260 85 210 50Q160 15 110 50Q60 85 10 50"
          {...swing}
        />
        <path d="M10 50H310" {...line} />
        <path d="M10 25V75M310 25V75" {...bar} />
        <circle cx="110" cy="50" r="8" {...line} />
        <circle cx="210" cy="50" r="8" {...line} />
      </>
    ),
  },
  course: {
    words: "Two strings close together, and two more.",
    drawn: (
      <path
        d="M10 30H310M10 40H310M10 70H310M10 80H310M10 15V95M310 15V95"
        {...line}
        strokeWidth={2.5}
      />
    ),
  },
  nut: {
    words: "The bar at the left end, from which strings run on to their pegs.",
    drawn: (
      <>
        <path d="M90 35H310M90 65H310M90 35L30 20M90 65L30 80" {...line} />
        <path d="M90 20V80" {...bar} />
        <path d="M150 20V80M205 20V80M255 20V80" {...line} strokeWidth={1} />
        <circle cx="24" cy="19" r="7" {...line} />
        <circle cx="24" cy="81" r="7" {...line} />
      </>
    ),
  },
  saddle: {
    words: "The bar at the right end, where strings rest on the body.",
    drawn: (
      <>
        <path d="M10 35H290M10 65H290" {...line} />
        <path d="M270 20V80" {...bar} />
        <path d="M200 10Q180 50 200 90H315V10Z" {...line} strokeWidth={1} />
      </>
    ),
  },
  overshoot: {
    words: "A line that rises past the waterline and comes back to it.",
    drawn: (
      <>
        <path d="M10 50H310" {...line} strokeDasharray="2 5" />
        <path d="M10 85C110 85 130 20 190 20S245 50 275 50H310" {...line} stroke={ink.water} />
      </>
    ),
  },
  settle: {
    words: "A finger that pulls the string a little aside in its middle.",
    drawn: (
      <>
        <path d="M10 35H310" {...line} strokeDasharray="2 5" />
        <path d="M10 35L160 60L310 35" {...line} />
        <path d="M10 15V55M310 15V55" {...bar} />
        <circle cx="160" cy="68" r="8" fill="currentColor" />
        <path d="M160 80V96M153 89L160 97L167 89" {...line} />
      </>
    ),
  },
};

export function WordPicture({ see }: { see: See }) {
  const { words, drawn } = PICTURES[see];
  return (
    <svg viewBox="0 0 320 100" role="img" aria-label={words}>
      {drawn}
    </svg>
  );
}
