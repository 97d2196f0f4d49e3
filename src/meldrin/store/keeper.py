"""Keeps the checkout's own MariaDB running: one that dies is started again."""

import logging
import threading
import time
from typing import Final

from meldrin.core.errors import MeldrinError
from meldrin.store.mariadb import Access, MariaDb

LOOKS_EVERY_S: Final = 0.25
FIRST_PAUSE_S: Final = 0.25
LONGEST_PAUSE_S: Final = 30.0
WELL_AFTER_S: Final = 60.0  # having run for so long, it is not what keeps dying
LOG = logging.getLogger("meldrin.database")


class Keeper:
    """Starts a server and sees to it until it is stopped. The pauses between starts grow while it
    keeps dying, so that a broken one does not take the whole machine.
    """

    def __init__(self, database: MariaDb) -> None:
        self._database = database
        self._ended = threading.Event()
        self._watching = threading.Thread(target=self._watch, daemon=True, name="keeper")

    def start(self) -> Access:
        """Start the server and begin to watch it.

        Raises:
            MeldrinError: code ``database``, where it does not start.
        """
        access = self._database.start()
        self._watching.start()
        return access

    def stop(self) -> None:
        """Stop watching, then the server."""
        self._ended.set()
        if self._watching.is_alive():
            self._watching.join()
        self._database.stop()

    def _watch(self) -> None:
        pause_s, since_s = FIRST_PAUSE_S, time.monotonic()
        while not self._ended.wait(LOOKS_EVERY_S):
            if self._database.alive:
                continue
            if time.monotonic() - since_s > WELL_AFTER_S:
                pause_s = FIRST_PAUSE_S
            LOG.error("the database has ended by itself; it is started again in %.2g s", pause_s)
            if self._ended.wait(pause_s):
                return
            pause_s = min(2.0 * pause_s, LONGEST_PAUSE_S)
            try:
                self._database.start()
                LOG.warning("the database runs again")
            except (MeldrinError, OSError) as error:
                LOG.error("it does not start: %s", error)
            since_s = time.monotonic()
