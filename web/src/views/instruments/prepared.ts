// What all of Prepare shares.

import type { Instrument } from "../../api/client";
import type { Asked } from "./asked";

export type Prepared = {
  instrument: Instrument;
  asked: Asked;
  change: (c: Partial<Asked>) => void;
};
