"""Being asked to end, from the first line of a start on."""

import signal
import sys
from collections.abc import Callable


class Ending:
    """What signals have asked this process to end. At first each ends it at once, by the way of an
    exit, so that what it has started is stopped; a server takes them over once it serves.
    """

    def __init__(self) -> None:
        self.asked: list[int] = []
        self._on_each(self._exit)

    @property
    def code(self) -> int:
        """The exit code: 0, or 128 and the number of the last signal."""
        return 128 + self.asked[-1] if self.asked else 0

    def instead(self, do: Callable[[], None]) -> None:
        """Do this from now on when asked to end, and now if that has been asked already: an exit
        inside the callback of a weak reference is lost.
        """
        self._on_each(do)
        if self.asked:
            do()

    def _exit(self) -> None:
        if len(self.asked) == 1:  # asked again while it ends, it goes on ending in order
            sys.exit(self.code)

    def _on_each(self, do: Callable[[], None]) -> None:
        def note(number: int, _: object) -> None:
            self.asked.append(number)
            do()

        # A shell hands SIGINT down as ignored to what runs in its background; it is heard again.
        for one in (signal.SIGINT, signal.SIGTERM, signal.SIGQUIT):
            signal.signal(one, note)
        if signal.getsignal(signal.SIGHUP) is not signal.SIG_IGN:  # nohup means to go on
            signal.signal(signal.SIGHUP, note)
