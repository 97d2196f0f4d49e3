"""The catalogue, and instruments of one's own."""

from typing import Annotated

from fastapi import APIRouter, Body, Response

from meldrin.core.catalogue import instruments
from meldrin.core.catalogue.load import MOST_CHARACTERS
from meldrin.reports.catalogue import CatalogueInstrument, instrument_page
from meldrin.server.dependencies import Asker, Guest, Now, Route, Store
from meldrin.server.instruments.present import played_instrument, wobble_sounds
from meldrin.server.instruments.schemas import PlayedInstrument, WobbleSound
from meldrin.services.instruments import (
    bring_instrument,
    own_instruments,
    remove_instrument,
    text_for,
)
from meldrin.services.limits import use

router = APIRouter(prefix="/api", tags=["instruments"], route_class=Route)


@router.get("/instruments")
def list_instruments(session: Store, actor: Asker) -> list[CatalogueInstrument]:
    """Every instrument with its strings and tunings: one's own first, then the catalogue."""
    own = own_instruments(session, actor)
    ids = {one.id for one in own}
    found = [instrument_page(one, own=True) for one in own]
    return [*found, *(instrument_page(one) for one in instruments() if one.id not in ids)]


@router.get("/instruments/{instrument_id}/strings")
def strings_to_hear(instrument_id: str, session: Store, actor: Asker) -> PlayedInstrument:
    """An instrument as it is drawn, with the sound of its open strings in tune."""
    return played_instrument(text_for(session, actor, instrument_id))


@router.get("/wobbles")
def wobbles() -> list[WobbleSound]:
    """What a wobble is: a string and the fork that beat fast, beat slowly, and are still."""
    return wobble_sounds()


@router.post("/instruments", status_code=201)
def bring_in(
    file: Annotated[str, Body(media_type="text/plain", max_length=MOST_CHARACTERS)],
    session: Store,
    actor: Guest,
    now: Now,
) -> CatalogueInstrument:
    """Bring in an instrument of one's own, from a file as the catalogue has them."""
    use(session, actor, "imports", now=now)
    return instrument_page(bring_instrument(session, actor, file, now=now), own=True)


@router.get(
    "/instruments/{instrument_id}/instrument.toml",
    response_class=Response,
    responses={200: {"content": {"application/toml": {}}}},
)
def take_along(instrument_id: str, session: Store, actor: Asker) -> Response:
    """The file of an instrument, as a pattern for one's own."""
    text = text_for(session, actor, instrument_id)
    # the id in the name is one that was found, so it is plain letters
    headers = {"content-disposition": f'attachment; filename="{instrument_id}.toml"'}
    return Response(text, media_type="application/toml", headers=headers)


@router.delete("/instruments/{instrument_id}", status_code=204)
def remove(instrument_id: str, session: Store, actor: Asker) -> None:
    """Remove an instrument of one's own."""
    remove_instrument(session, actor, instrument_id)
