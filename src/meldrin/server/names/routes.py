"""The names that screens show, all at once."""

from collections.abc import Iterable

from fastapi import APIRouter, Response

from meldrin.core import names
from meldrin.core.drills import DRILLS
from meldrin.core.glossary import glossary, sounds_of
from meldrin.core.methods import METHODS
from meldrin.core.rounds import in_rounds
from meldrin.server.dependencies import Route
from meldrin.server.names.schemas import (
    Named,
    NamedDrill,
    NamedMethod,
    NamedRound,
    Names,
    Word,
    WordSound,
)

router = APIRouter(prefix="/api", tags=["names"], route_class=Route)


@router.get("/names")
def list_names(response: Response) -> Names:
    """Everything that has a name on screen."""
    response.headers["Cache-Control"] = "no-cache"  # the same for everybody
    return Names(
        methods=[NamedMethod.model_validate(one) for one in METHODS.values()],
        drills=[
            NamedDrill(
                id=one.id,
                name=one.name,
                about=one.about,
                interval=one.usual_interval,
            )
            for one in DRILLS.values()
        ],
        rounds=[
            NamedRound(
                id=f"{drill.id} {one.interval}",
                words=one.words,
                drill=drill.id,
                interval=one.interval,
            )
            for drill, one in in_rounds()
        ],
        starts=_named(names.STARTS),
        aids=_named(names.AIDS),
        tolerances=_named(names.TOLERANCES),
        behaviours=_named(names.BEHAVIOURS),
        verdicts=_named(names.VERDICTS),
        ripples=_named(names.RIPPLES),
        bases=_named(names.BASES),
        orders=_named(names.ORDERS),
        fork_ats=_named(names.FORK_ATS),
        namings=_named(names.NAMINGS),
        words=[
            Word(id=one.id, words=one.words, says=one.says, see=one.see)
            for one in glossary().values()
        ],
        faults=_named(names.FAULTS),
        remedies=_named(names.REMEDIES),
        ears=_named(names.EAR_NAMES),
    )


@router.get("/words/{word}")
def hear_word(word: str) -> WordSound:
    """What a word of the glossary sounds like."""
    return WordSound(sounds=sounds_of(word))


def _named(found: Iterable[names.Name]) -> list[Named]:
    return [Named.model_validate(one) for one in found]
