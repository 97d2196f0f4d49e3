"""Group commit: the actions of all attempts in this process are written together, in order.

An action is answered at once and acknowledged (`saved`) when it is on disk. While the database is
away the actions stay here, and the browser keeps them as well until they are acknowledged. An
action that can never be written is set aside alone, with the reason in the log.
"""

import asyncio
import logging
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial
from typing import Protocol

from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError, SQLAlchemyError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from meldrin.server.edge.traffic import SAVES, UNSAVED
from meldrin.services.attempts import Batch, Numbered, append_actions
from meldrin.services.results import Results
from meldrin.store.engine import Sessions, in_transaction

GATHER_S = 0.2  # how long actions gather before a commit; a crash can cost no more than is unsaved
RETRY_S = 0.5
LAST_TRY_S = 5.0
LOG = logging.getLogger("meldrin.journal")


class Holder(Protocol):
    """A socket that plays an attempt, as the journal sees it. With each hello it is another holder
    to the database: `key` and `holder` say which it is now.
    """

    key: int
    holder: str

    @property
    def practice(self) -> str: ...

    def saved(self, number: int) -> None: ...

    def moved(self) -> None: ...

    def unsaved(self) -> None: ...

    def set_aside(self, numbers: Sequence[int]) -> None: ...


Hold = tuple[int, str]  # an attempt's row, and who plays it


@dataclass(frozen=True)
class Waiting:
    """What one holder has to be written, in order."""

    by: Holder
    practice: str
    actions: list[Numbered]


@dataclass(frozen=True)
class Written:
    """What came of writing: who was refused, and the numbers of actions that cannot be kept."""

    refused: set[Hold]
    aside: dict[Hold, list[int]]


class Journal:
    """One a process. `put` takes an action; `run` writes until it is cancelled."""

    def __init__(self, sessions: Sessions, now: Callable[[], datetime], results: Results) -> None:
        self._sessions = sessions
        self._now = now
        self._results = results
        self._scoring: set[asyncio.Task[None]] = set()
        self._pending: dict[Hold, Waiting] = {}
        self._filled = asyncio.Event()
        self._since_s = 0.0  # when the first that waits was put

    def put(self, holder: Holder, action: Numbered) -> None:
        """Queue an action to be written."""
        hold = (holder.key, holder.holder)
        waiting = self._pending.setdefault(hold, Waiting(holder, holder.practice, []))
        waiting.actions.append(action)
        if not self._filled.is_set():
            self._since_s = time.monotonic()
            self._filled.set()

    def forget(self, holder: Holder) -> None:
        """Drop what a holder has pending, before it says hello again."""
        self._pending.pop((holder.key, holder.holder), None)

    async def run(self) -> None:
        """Write what is put, again and again; try again while the database is away."""
        while True:
            await self._filled.wait()
            # what came during a slow write has waited already
            await asyncio.sleep(max(0.0, self._since_s + GATHER_S - time.monotonic()))
            if not await self._write():
                await asyncio.sleep(RETRY_S)

    async def close(self) -> None:
        """Write what is left, for a few seconds at most."""
        async with asyncio.timeout(LAST_TRY_S):
            while self._pending:
                if not await self._write():
                    await asyncio.sleep(RETRY_S)

    async def _write(self) -> bool:
        self._filled.clear()
        batches = [
            Batch(*hold, tuple(waiting.actions), waiting.practice)
            for hold, waiting in self._pending.items()
        ]
        if not batches:
            return True
        by = {hold: waiting.by for hold, waiting in self._pending.items()}
        try:
            with SAVES.time():
                written = await asyncio.to_thread(self._append, batches)
        except SQLAlchemyError as error:  # the actions stay and are tried again
            LOG.warning("actions could not be saved: %s", str(error).splitlines()[0])
            self._filled.set()
            for hold, holder in by.items():
                if _still(hold, holder):
                    holder.unsaved()
            return False
        for batch in batches:
            hold = (batch.key, batch.holder)
            self._done(batch, by[hold], hold in written.refused, written.aside.get(hold, []))
        UNSAVED.set(sum(len(waiting.actions) for waiting in self._pending.values()))
        return True

    def _done(self, batch: Batch, holder: Holder, refused: bool, aside: Sequence[int]) -> None:
        """Tell a holder what came of its batch, and keep what it has done since."""
        hold = (batch.key, batch.holder)
        waiting = self._pending.get(hold)
        if waiting is not None:
            del waiting.actions[: len(batch.actions)]
            if refused or not waiting.actions:
                del self._pending[hold]
        if batch.ends and not refused:
            task = asyncio.create_task(self._score(batch.key))
            self._scoring.add(task)
            task.add_done_callback(self._scoring.discard)
        if not _still(hold, holder):
            return  # it has said hello again since, and was told how things stand
        if refused:
            holder.moved()
            return
        kept = [one.number for one in batch.actions if one.number not in aside]
        if kept:
            holder.saved(kept[-1])
        if aside:
            holder.set_aside(aside)

    async def _score(self, key: int) -> None:
        """Compute the score of an attempt that has just been saved as finished."""
        try:
            await asyncio.to_thread(self._results.score, key)
        except SQLAlchemyError as error:  # it is computed at the first look instead
            LOG.warning("a score could not be kept: %s", str(error).splitlines()[0])

    def _append(self, batches: list[Batch]) -> Written:
        """Write batches together; where that fails by what is in them, in ever smaller parts, so
        that what cannot be kept is set aside alone.
        """
        try:
            write = partial(append_actions, batches=batches, now=self._now())
            return Written(in_transaction(self._sessions, write), {})
        except Exception as error:
            if _away(error):
                raise
            first, second = _halves(batches)
            if not second:
                batch = first[0]
                number = batch.actions[0].number
                LOG.exception(
                    "action %d of attempt %d is set aside", number, batch.key, exc_info=error
                )
                return Written(set(), {(batch.key, batch.holder): [number]})
        before, after = self._append(first), self._append(second)
        aside = {
            hold: before.aside.get(hold, []) + after.aside.get(hold, [])
            for hold in {**before.aside, **after.aside}
        }
        return Written(before.refused | after.refused, aside)


def _away(error: Exception) -> bool:
    """Return whether the database or its connection failed, and not what was to be written."""
    lost = isinstance(error, DBAPIError) and error.connection_invalidated
    return lost or isinstance(error, OperationalError | InterfaceError | PoolTimeout)


def _still(hold: Hold, holder: Holder) -> bool:
    """Return whether a socket is the holder it was when it put its actions."""
    return hold == (holder.key, holder.holder)


def _halves(batches: list[Batch]) -> tuple[list[Batch], list[Batch]]:
    """Return two smaller lists, by attempts and then by actions; the second is empty for one."""
    if len(batches) > 1:
        middle = len(batches) // 2
        return batches[:middle], batches[middle:]
    batch = batches[0]
    if len(batch.actions) == 1:
        return batches, []
    middle = len(batch.actions) // 2
    return (
        [replace(batch, actions=batch.actions[:middle])],
        [replace(batch, actions=batch.actions[middle:])],
    )
