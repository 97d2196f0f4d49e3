"""An attempt played back: its moments in order."""

from meldrin.server.schemas.bench import BenchAction, BenchSound
from meldrin.server.schemas.wire import Wire
from meldrin.services.replays import Frame


class ReplayPair(Wire):
    """The two partials that met at a moment, and how: their voices, their places from 1, the beat
    and what it should be (Hz).
    """

    own_voice: int
    own_partial: int
    other_voice: int
    other_partial: int
    beats_hz: float
    wanted_hz: float


class ReplayFrame(Wire):
    """What was done at a moment, at which stage, what sounded from then on, and how the string that
    is looked at stood (cents).
    """

    at_s: float
    stage: int
    action: BenchAction
    sounds: list[BenchSound]
    pair: ReplayPair | None
    string: int | None
    voice: int | None
    cents: float | None


class ReplayPage(Wire):
    """All of an attempt; it lasts `duration_s`."""

    duration_s: float
    frames: list[ReplayFrame]


def replay_of(frames: list[Frame]) -> ReplayPage:
    """Return the wire form of a replay."""
    return ReplayPage(
        duration_s=frames[-1].at_s if frames else 0.0,
        frames=[_frame(frame) for frame in frames],
    )


def _frame(frame: Frame) -> ReplayFrame:
    pair, level = frame.pair, frame.level
    return ReplayFrame(
        at_s=frame.at_s,
        stage=frame.stage,
        action=frame.action,
        sounds=list(frame.sounds),
        pair=None
        if pair is None
        else ReplayPair(
            own_voice=pair.own_voice,
            own_partial=pair.own_partial,
            other_voice=pair.other_voice,
            other_partial=pair.other_partial,
            beats_hz=pair.beats_hz,
            wanted_hz=pair.wanted_hz,
        ),
        string=None if level is None else level.string,
        voice=None if level is None else level.voice,
        cents=None if level is None else level.cents,
    )
