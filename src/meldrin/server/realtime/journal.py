"""Group commit: the actions of all attempts in this process are written together, in order.

An action is answered at once and acknowledged (`saved`) when it is on disk. While the database is
away the actions stay here, and the browser keeps them as well until they are acknowledged.
"""

import asyncio
import contextlib
import logging
from collections.abc import Callable
from datetime import datetime
from typing import Protocol

from sqlalchemy.exc import SQLAlchemyError

from meldrin.core.errors import MeldrinError
from meldrin.services.attempts import Batch, Numbered, append_actions, record_of
from meldrin.services.results import Results
from meldrin.store.engine import Sessions

GATHER_S = 0.1  # how long actions gather before a commit; a crash can cost no more than is unsaved
RETRY_S = 0.5
LAST_TRY_S = 5.0
LOG = logging.getLogger("meldrin.journal")


class Holder(Protocol):
    """A socket that plays an attempt, as the journal sees it."""

    key: int
    holder: str

    @property
    def practice(self) -> str: ...

    def saved(self, number: int) -> None: ...

    def moved(self) -> None: ...

    def unsaved(self) -> None: ...


class Journal:
    """One a process. `put` takes an action; `run` writes until it is cancelled."""

    def __init__(self, sessions: Sessions, now: Callable[[], datetime], results: Results) -> None:
        self._sessions = sessions
        self._now = now
        self._results = results
        self._scoring: set[asyncio.Task[None]] = set()
        self._pending: dict[Holder, list[Numbered]] = {}
        self._filled = asyncio.Event()

    def put(self, holder: Holder, action: Numbered) -> None:
        """Queue an action to be written."""
        self._pending.setdefault(holder, []).append(action)
        self._filled.set()

    def forget(self, holder: Holder) -> None:
        """Drop what a holder has pending, once another has taken its attempt over."""
        self._pending.pop(holder, None)

    async def run(self) -> None:
        """Write what is put, again and again; try again while the database is away."""
        while True:
            await self._filled.wait()
            await asyncio.sleep(GATHER_S)
            if not await self._write():
                await asyncio.sleep(RETRY_S)

    async def close(self) -> None:
        """Write what is left, for a few seconds at most."""
        async with asyncio.timeout(LAST_TRY_S):
            while self._pending and not await self._write():
                await asyncio.sleep(RETRY_S)

    async def _write(self) -> bool:
        taken = {holder: tuple(actions) for holder, actions in self._pending.items()}
        self._filled.clear()
        if not taken:
            return True
        batches = [
            Batch(holder.key, holder.holder, actions, holder.practice)
            for holder, actions in taken.items()
        ]
        try:
            refused = await asyncio.to_thread(self._append, batches)
        except Exception as error:  # whatever it is, the actions stay and are tried again
            if isinstance(error, SQLAlchemyError):
                LOG.warning("actions could not be saved: %s", str(error).splitlines()[0])
            else:
                LOG.exception("actions could not be saved")
            self._filled.set()
            for holder in taken:
                holder.unsaved()
            return False
        for batch, (holder, actions) in zip(batches, taken.items(), strict=True):
            rest = self._pending.get(holder, [])[len(actions) :]
            if rest and (holder.key, holder.holder) not in refused:
                self._pending[holder] = rest
            else:
                self._pending.pop(holder, None)
            if (holder.key, holder.holder) in refused:
                holder.moved()
            else:
                holder.saved(actions[-1].number)
                if batch.ends:
                    task = asyncio.create_task(self._score(holder.key))
                    self._scoring.add(task)
                    task.add_done_callback(self._scoring.discard)
        return True

    async def _score(self, key: int) -> None:
        """Compute the score of an attempt that has just been saved as finished."""
        with contextlib.suppress(MeldrinError):  # erased or taken over meanwhile
            try:
                await asyncio.to_thread(self._score_now, key)
            except SQLAlchemyError as error:  # it is computed at the first look instead
                LOG.warning("a score could not be kept: %s", str(error).splitlines()[0])

    def _score_now(self, key: int) -> None:
        with self._sessions() as session:
            record = record_of(session, key)
        self._results.of(record)

    def _append(self, batches: list[Batch]) -> set[tuple[int, str]]:
        with self._sessions() as session:
            return append_actions(session, batches, now=self._now())
