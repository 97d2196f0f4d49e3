// What an action is called on the picture.

import type { AttemptPage, BenchAction } from "../api/client";
import { labelOf } from "../words/labels";
import { named } from "../words/notes";

export function markWords(action: BenchAction, page: AttemptPage): string | null {
  switch (action.kind) {
    case "turn":
      return action.degrees > 0 ? "tighten" : "loosen";
    case "slide_fret":
      return action.mm > 0 ? "slide up" : "slide down";
    case "mute_all":
      return "mute";
    case "settle":
      return "pull";
    case "lay":
      return action.down ? "laid down" : "taken up";
    case "replace":
      return "new string";
    case "decide":
      return action.verdict === "unsure" ? "cannot tell" : action.verdict;
    case "play_a_minute":
      return "a minute of playing";
    case "wait":
      return "later";
    case "lay_chord":
      return named(action.name, page.exercise.naming);
    case "stop":
      if (action.fret === 0) return "open";
      return action.touch ? "touch" : `fret ${action.fret}`;
    case "play":
      if (action.strings.length === 0) return page.reference.words;
      if (action.reference || action.strings.length > 1) return "play";
      return labelOf(page, action.strings[0] ?? 0);
    default:
      return null;
  }
}
