"""A kind of practice is folders of its own and its line in the registry. One that is made up here
is kept, taken over, scored and listed, and served over a line, without a word of it elsewhere.
"""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from typing import Annotated, Any, Literal
from unittest import mock

from fastapi import WebSocket
from pydantic import BaseModel, Field, TypeAdapter

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.session import Practice, Shape, Sounds, Timed
from meldrin.server.realtime import messages as line
from meldrin.server.realtime.line import Say, serve_line
from meldrin.server.realtime.messages import Hello
from meldrin.services.attempts import (
    Batch,
    Filter,
    Numbered,
    Record,
    append_actions,
    list_attempts,
    open_attempt,
    start_attempt,
    take_over,
)
from meldrin.services.figures import bring_in, figures_by_kind, gone_of
from meldrin.services.identity import actor_of, new_secret, welcome_guest
from meldrin.services.practices import KINDS, Columns, PracticeKind, ResultSummary
from meldrin.services.results import Results
from tests.server.base import NOW, ServerTest, StoreTest


@dataclass(frozen=True)
class Count:
    """Count up to a number."""

    to: int


@dataclass(frozen=True)
class Say1:
    """Say the next number."""

    number: int
    kind: Literal["say"] = "say"


@dataclass(frozen=True)
class Counted:
    exercise: Count
    said: tuple[int, ...] = ()
    time_s: float = 0.0


def step(state: Counted, action: Say1, /, *, dt_s: float) -> tuple[Counted, Sounds]:
    if len(state.said) == state.exercise.to:
        raise MeldrinError(Code.FINISHED, "That is all.")
    said = (*state.said, action.number)
    return replace(state, said=said, time_s=state.time_s + dt_s), ()


@dataclass(frozen=True)
class CountedUp:
    """What is kept of it: how many numbers were right."""

    at: datetime
    right: int


def right(_: Count, log: Sequence[Timed[Say1]]) -> int:
    return sum(one.action.number == n for n, one in enumerate(log, start=1))


COUNTING = PracticeKind[Count, Counted, Say1, int](
    practice=Practice(
        kind="counting",
        opening=Counted,
        step=step,
        ends=lambda action: action.number == 3,
        exercises=Shape("count", Code.EXERCISE, 1, asdict, lambda fields: Count(**fields), {}),
        actions=Shape("word", Code.ACTION, 1, asdict, lambda fields: Say1(**fields), {}),
    ),
    engine=1,
    columns=lambda exercise: Columns("none", str(exercise.to), "aloud", "one"),
    kept=lambda exercise: exercise,
    name=lambda exercise: f"Count to {exercise.to}",
    score=right,
    results=Shape("result", Code.UNREADABLE, 1, lambda n: {"right": n}, lambda f: f["right"], {}),
    points=float,
    brief=lambda _: ResultSummary("ear", None, None, "", 0, 0),
    figure=lambda _, result, at, __: CountedUp(at, result),
    figures=CountedUp,
    from_file=lambda figure: replace(figure, right=0),
    tells="say",
)


class CountAct(line.Act):
    action: Say1


class CountReply(BaseModel):
    kind: str
    number: int
    said: list[int]


class CountSeat:
    """One who counts over a line."""

    practice = "counting"
    messages: TypeAdapter[Any] = TypeAdapter(
        Annotated[Hello | CountAct, Field(discriminator="kind")]
    )

    def __init__(self) -> None:
        self.state = Counted(Count(0))

    @property
    def time_s(self) -> float:
        return self.state.time_s

    def sit(self, record: Record) -> None:
        self.state = Counted(record.exercise, tuple(one.action.number for one in record.timed))

    def welcome(self, number: int) -> BaseModel:
        return CountReply(kind="welcome", number=number, said=list(self.state.said))

    def act(self, number: int, at_s: float, action: Say1, _: Say) -> BaseModel:
        self.state = step(self.state, action, dt_s=at_s - self.time_s)[0]
        return CountReply(kind="now", number=number, said=list(self.state.said))

    def hear(self, *_: Any) -> None:
        raise AssertionError("nothing else is said")


class Kept(StoreTest):
    def setUp(self) -> None:
        super().setUp()
        self.enterContext(mock.patch.dict(KINDS, {"counting": COUNTING}))

    def test_it_is_begun_kept_scored_and_listed(self) -> None:
        actor = welcome_guest(self.session, secret=new_secret(), now=NOW)
        begun = start_attempt(self.session, actor, Count(3), now=NOW, practice="counting")
        record = take_over(self.session, actor, begun.id, holder="a")
        said = tuple(Numbered(n, Timed(float(n), Say1(number))) for n, number in ((1, 1), (2, 9)))
        append_actions(self.session, [Batch(record.key, "a", said, "counting")], now=NOW)
        self.assertIsNone(open_attempt(self.session, actor, begun.id).summary.finished_at)
        last = (Numbered(3, Timed(3.0, Say1(3))),)
        append_actions(self.session, [Batch(record.key, "a", last, "counting")], now=NOW)
        again = open_attempt(self.session, actor, begun.id)
        self.assertEqual([one.action.number for one in again.timed], [1, 9, 3])
        self.assertEqual(Results(self.sessions).of(again), 2)
        self.session.expire_all()
        (listed,) = list_attempts(
            self.session, actor, Filter(practice="counting", state="finished")
        ).attempts
        self.assertEqual((listed.name, listed.points), ("Count to 3", 2.0))
        self.assertEqual(list_attempts(self.session, actor, Filter(practice="bench")).attempts, [])
        kept = figures_by_kind(self.session, actor)
        self.assertEqual([one.right for one in kept["counting"]], [2])
        self.assertEqual((kept["bench"], kept["drills"]), ([], []))

    def test_who_leaves_it_after_an_answer_is_known_and_a_file_proves_nothing(self) -> None:
        actor = welcome_guest(self.session, secret=new_secret(), now=NOW)
        begun = start_attempt(self.session, actor, Count(3), now=NOW, practice="counting")
        self.assertEqual(gone_of(self.session, actor, practice="counting"), [])
        record = take_over(self.session, actor, begun.id, holder="a")
        said = (Numbered(1, Timed(1.0, Say1(1))),)
        append_actions(self.session, [Batch(record.key, "a", said, "counting")], now=NOW)
        self.assertEqual(len(gone_of(self.session, actor, practice="counting")), 1)
        self.assertEqual(bring_in(self.session, actor, [CountedUp(NOW, 3)]), 1)
        (brought,) = figures_by_kind(self.session, actor)["counting"]
        self.assertEqual(brought.right, 0)


class Served(ServerTest):
    def test_it_goes_over_the_line_and_stands_in_the_list(self) -> None:
        self.enterContext(mock.patch.dict(KINDS, {"counting": COUNTING}))
        app = self.client.app

        async def count(attempt_id: str, socket: WebSocket) -> None:
            await serve_line(socket, attempt_id, CountSeat(), process=socket.app.state.kept)

        app.add_api_websocket_route("/count/{attempt_id}", count)  # type: ignore[attr-defined]
        app.router.routes.insert(0, app.router.routes.pop())  # type: ignore[attr-defined]
        self.begin()  # the newcomer becomes a guest
        with app.state.kept.pools.requests() as session:  # type: ignore[attr-defined]
            actor = actor_of(session, self.client.cookies["meldrin_learner"], now=NOW)
            begun = start_attempt(session, actor, Count(3), now=NOW, practice="counting")
        with self.client.websocket_connect(f"/count/{begun.id}") as socket:
            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            self.assertEqual(socket.receive_json()["kind"], "welcome")
            for number in (1, 2, 3):
                action = {"kind": "say", "number": number}
                socket.send_json(
                    {"kind": "act", "number": number, "at_s": number, "action": action}
                )
            heard: list[dict[str, Any]] = []
            while {"kind": "saved", "number": 3} not in heard:
                heard.append(socket.receive_json())
            self.assertIn({"kind": "now", "number": 3, "said": [1, 2, 3]}, heard)
        listed = {
            one["practice"]: one for one in self.client.get("/api/attempts").json()["attempts"]
        }
        self.assertEqual(listed["counting"]["name"], "Count to 3")
        self.assertIsNone(listed["counting"]["exercise"])
        # the bench's own pages do not open what is no attempt at the bench
        for part in ("", "/replay", "/sound.wav", "/attempt.json"):
            reply = self.client.get(f"/api/attempts/{begun.id}{part}")
            self.assertEqual(reply.status_code, 404, part)
        with self.client.websocket_connect(f"/api/attempts/{begun.id}/bench") as socket:
            socket.send_json({"kind": "hello", "tab": "tab-0001"})
            self.assertEqual(socket.receive_json()["code"], "no_such_attempt")
