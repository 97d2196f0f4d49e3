"""Tells every screen of every round in this process how it stands, as soon as that has changed.

What stands is in the database: each process looks there a few times a second, at all its rounds in
one query, and writes what changed once for all screens of a round. A screen that reads slowly is
told what stands then, and not all that was between.
"""

import asyncio
import contextlib
import logging
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import partial
from typing import Final

from fastapi import WebSocket, WebSocketDisconnect
from pydantic import BaseModel
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from meldrin.core.errors import MeldrinError
from meldrin.services.rounds import HERE_FOR, Tally, stay, tallies
from meldrin.store.engine import Sessions, in_transaction
from meldrin.store.tables import RoundRow
from meldrin.wire import text_of

LOOKS_EVERY_S: Final = 0.15
RESTS: Final = 2.0  # times as long as a look has taken, so that many rooms leave time for answers
STAYS_EVERY_S: Final = HERE_FOR.total_seconds() / 3
AWAY_S: Final = 1.0  # while the database is away
READS_WITHIN_S: Final = 20.0  # a screen that does not read what it is told for so long is gone
GONE, UNREAD, NOT_ASKED = 4404, 4408, 4400
LOG = logging.getLogger("meldrin.rounds")


class Screen:
    """One screen of a round: a socket, and the seats that its browser has there."""

    def __init__(self, socket: WebSocket, key: int, seats: list[int]) -> None:
        self.key = key
        self.seats = seats
        self._socket = socket
        self._text: str | None = None
        self._gone = False
        self._fresh = asyncio.Event()

    def tell(self, text: str | None) -> None:
        """Have this told as soon as can be, in place of what is not told yet; None: the round has
        been erased.
        """
        self._text, self._gone = text, text is None
        self._fresh.set()

    async def serve(self) -> None:
        """Tell it how the round stands, until it goes."""
        telling = asyncio.create_task(self._tell())
        leaving = asyncio.create_task(self._leave())
        try:
            await asyncio.wait({telling, leaving}, return_when=asyncio.FIRST_COMPLETED)
        finally:
            for task in (telling, leaving):
                task.cancel()
            await asyncio.gather(telling, leaving, return_exceptions=True)

    async def _tell(self) -> None:
        with contextlib.suppress(WebSocketDisconnect, RuntimeError):
            while True:
                await self._fresh.wait()
                self._fresh.clear()
                if self._gone:
                    await self._socket.close(GONE)
                    return
                try:
                    async with asyncio.timeout(READS_WITHIN_S):
                        await self._socket.send_text(self._text or "")
                except TimeoutError:
                    await self._socket.close(UNREAD)
                    return

    async def _leave(self) -> None:
        """Wait until it goes; it has nothing to say here."""
        with contextlib.suppress(WebSocketDisconnect, RuntimeError, KeyError):
            await self._socket.receive_text()
            await self._socket.close(NOT_ASKED)


@dataclass(frozen=True, slots=True)
class Known:
    """How a round stood when it was looked at, and what all its screens were told."""

    tally: Tally
    scene: BaseModel


class Hub:
    """The screens of all rounds in this process; `scene_of` makes what is told of one."""

    def __init__(
        self,
        sessions: Sessions,
        now: Callable[[], datetime],
        scene_of: Callable[[Session, RoundRow, Tally], BaseModel],
    ) -> None:
        self._sessions = sessions
        self._scene_of = scene_of
        self._now = now
        self._screens: dict[int, set[Screen]] = {}
        self._known: dict[int, Known] = {}
        self._some = asyncio.Event()

    async def serve(self, screen: Screen) -> None:
        """Keep a screen told until it goes."""
        self._screens.setdefault(screen.key, set()).add(screen)
        known = self._known.get(screen.key)
        if known is not None:
            screen.tell(text_of(known.scene))
        self._some.set()
        try:
            await asyncio.to_thread(self._stay, screen.seats, here=True)
            await screen.serve()
        finally:
            there = self._screens[screen.key]
            there.discard(screen)
            if not there:
                del self._screens[screen.key]
                self._known.pop(screen.key, None)
            left = [one for one in screen.seats if all(one not in each.seats for each in there)]
            await asyncio.shield(asyncio.to_thread(self._stay, left, here=False))

    async def run(self) -> None:
        """Look again and again how the rounds stand, until cancelled."""
        clock = asyncio.get_running_loop().time
        stayed_s = clock()
        while True:
            if not self._screens:
                self._some.clear()
                await self._some.wait()
            looked_s = clock()
            try:
                for key, found in (await asyncio.to_thread(self._changed)).items():
                    self._tell(key, found)
                if clock() - stayed_s > STAYS_EVERY_S:
                    stayed_s = clock()
                    screens = [one for there in self._screens.values() for one in there]
                    seats = sorted({seat for one in screens for seat in one.seats})
                    await asyncio.to_thread(self._stay, seats, here=True)
            except SQLAlchemyError as error:  # then the next time
                LOG.warning("rounds were not looked at: %s", str(error).splitlines()[0])
                await asyncio.sleep(AWAY_S)
            await asyncio.sleep(max(LOOKS_EVERY_S, RESTS * (clock() - looked_s)))

    def _tell(self, key: int, found: Known | None) -> None:
        there = self._screens.get(key, set())
        if found is not None and there:
            self._known[key] = found
        text = None if found is None else text_of(found.scene)
        for screen in there:
            screen.tell(text)

    def _changed(self) -> dict[int, Known | None]:
        """Return the rounds that have changed, each with what is to be told of it; None for one
        that is no more, or cannot be read.
        """
        watched = list(self._screens)
        return in_transaction(self._sessions, partial(self._look, watched=watched))

    def _look(self, session: Session, *, watched: list[int]) -> dict[int, Known | None]:
        stand = tallies(session, watched, now=self._now())
        found: dict[int, Known | None] = {}
        for key in watched:
            tally, known = stand.get(key), self._known.get(key)
            if tally is None:
                found[key] = None
            elif known is None or known.tally.version != tally.version:
                found[key] = self._seen(session, key, tally)
            elif known.tally != tally:  # the rest stands as it was
                counts = {"here": tally.here, "answered": tally.answered}
                found[key] = Known(tally, known.scene.model_copy(update=counts))
        session.rollback()
        return found

    def _seen(self, session: Session, key: int, tally: Tally) -> Known | None:
        row = session.get(RoundRow, key)
        if row is None:  # erased just now
            return None
        try:
            return Known(tally, self._scene_of(session, row, tally))
        except MeldrinError as error:
            LOG.warning("a round cannot be read: %s", error.message)
            return None

    def _stay(self, seats: list[int], *, here: bool) -> None:
        until = self._now() + (HERE_FOR if here else timedelta())
        with contextlib.suppress(SQLAlchemyError):  # they are gone soon enough by themselves
            in_transaction(self._sessions, partial(stay, seats=seats, until=until))
