"""What every line says, whatever is practised."""

from typing import Annotated, Final, Literal

from annotated_types import Ge, Le
from pydantic import Field

from meldrin.core.errors import Code
from meldrin.wire import Wire

MOST_NUMBER: Final = 2**31 - 1
LONGEST_S: Final = 24 * 3600.0
Number = Annotated[int, Ge(1), Le(MOST_NUMBER)]
Seconds = Annotated[float, Ge(0.0), Le(LONGEST_S)]


class Hello(Wire):
    """The first message of a tab: it takes the attempt over. `tab` is an id of its own making."""

    kind: Literal["hello"]
    tab: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,64}$")]


class Act(Wire):
    """An action; `number` rises by any step, `at_s` is the time since the attempt began. Each kind
    of practice adds its own `action`.
    """

    kind: Literal["act"]
    number: Number
    at_s: Seconds


class Saved(Wire):
    """Every action up to this number is on disk."""

    kind: Literal["saved"] = "saved"
    number: int


class Refused(Wire):
    """A message could not be taken; nothing has changed. `number` is that of the action, if any."""

    kind: Literal["refused"] = "refused"
    number: int | None
    code: Code
    message: str


class Trouble(Wire):
    """Actions are taken but cannot be saved for the moment; they are kept and tried again."""

    kind: Literal["trouble"] = "trouble"
    message: str


class Moved(Wire):
    """Another tab has taken the attempt over; this one is no longer heard."""

    kind: Literal["moved"] = "moved"
    message: str
