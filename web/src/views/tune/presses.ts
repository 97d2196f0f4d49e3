// Buttons that do what a key does.

import type { Command } from "./commands";
import { type Hold, keyWords } from "./keys";

/** The command of that name. */
export function commandOf(commands: readonly Command[], id: string): Command {
  const command = commands.find((one) => one.id === id);
  if (!command) throw new Error(`no command ${id}`);
  return command;
}

/** A button that does it once. */
export function pressing(command: Command, isLive: boolean) {
  return {
    hint: keyWords(command.key),
    isDisabled: !isLive || !command.allowed,
    onPress: () => command.run(performance.now(), false),
  };
}

/** A button that goes on doing it while it is held. */
export function holding(command: Command, hold: Hold, isLive: boolean) {
  return {
    hint: keyWords(command.key),
    isDisabled: !isLive,
    onPressStart: () =>
      hold.start((at) => command.run(at, false), performance.now(), command.ended),
    onPressEnd: () => hold.stop(),
  };
}
