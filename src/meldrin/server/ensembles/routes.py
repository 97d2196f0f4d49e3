"""Checks before a concert over HTTP."""

from typing import Annotated

from fastapi import APIRouter, Body, Depends, Response

from meldrin.core.catalogue.load import MOST_STRINGS
from meldrin.server.dependencies import Asker, Counts, Now, Route, Store
from meldrin.server.ensembles.schemas import (
    EnsemblePage,
    EnsemblePlayer,
    EnsembleRowPage,
    EnsembleString,
    EnsembleWanted,
    PlaysOn,
    TypedReading,
)
from meldrin.services import ensembles as service
from meldrin.services.studios import taught
from meldrin.store.tables import EnsembleRow

router = APIRouter(prefix="/api", tags=["ensembles"], route_class=Route)


@router.get("/studios/{studio_id}/ensembles")
def list_ensembles(studio_id: str, session: Store, actor: Asker) -> list[EnsembleRowPage]:
    """The checks of a studio, the one changed last first."""
    studio = taught(session, actor, studio_id)
    return [_row_of(row) for row in service.ensembles_in(session, studio)]


@router.post("/studios/{studio_id}/ensembles", status_code=201)
def make_ensemble(
    studio_id: str, wanted: EnsembleWanted, session: Store, actor: Asker, now: Now
) -> EnsembleRowPage:
    """Begin a check for a group, or for all pupils."""
    row = service.make_ensemble(
        session,
        actor,
        studio_id,
        name=wanted.name,
        group=wanted.group,
        agreed=wanted.agreed(),
        now=now,
    )
    return _row_of(row)


@router.get("/studios/{studio_id}/ensembles/{ensemble_id}")
def check_ensemble(
    studio_id: str, ensemble_id: str, session: Store, actor: Asker, now: Now
) -> EnsemblePage:
    """How the strings of a group stand against what it has agreed."""
    found = service.check_ensemble(session, actor, studio_id, ensemble_id, now=now)
    return _page_of(found)


@router.put("/studios/{studio_id}/ensembles/{ensemble_id}", status_code=204)
def change_ensemble(
    studio_id: str,
    ensemble_id: str,
    wanted: EnsembleWanted,
    session: Store,
    actor: Asker,
    now: Now,
) -> None:
    """Agree on something else; strings stay where they are."""
    service.change_ensemble(
        session,
        actor,
        studio_id,
        ensemble_id,
        name=wanted.name,
        group=wanted.group,
        agreed=wanted.agreed(),
        now=now,
    )


@router.delete("/studios/{studio_id}/ensembles/{ensemble_id}", status_code=204)
def erase_ensemble(
    studio_id: str, ensemble_id: str, session: Store, actor: Asker, now: Now
) -> None:
    """Erase a check with what was typed in for it."""
    service.erase_ensemble(session, actor, studio_id, ensemble_id, now=now)


@router.put(
    "/studios/{studio_id}/ensembles/{ensemble_id}/players/{member_id}/strings",
    status_code=204,
)
def type_readings(
    studio_id: str,
    ensemble_id: str,
    member_id: str,
    wanted: Annotated[list[TypedReading], Body(max_length=MOST_STRINGS)],
    session: Store,
    actor: Asker,
    now: Now,
) -> None:
    """Keep what a tuner shows of a pupil's strings."""
    service.type_readings(
        session,
        actor,
        studio_id,
        ensemble_id,
        member_id,
        cents={one.string: one.cents for one in wanted},
        now=now,
    )


@router.put("/studios/{studio_id}/ensembles/{ensemble_id}/players/{member_id}", status_code=204)
def set_instrument(
    studio_id: str,
    ensemble_id: str,
    member_id: str,
    wanted: PlaysOn,
    session: Store,
    actor: Asker,
    now: Now,
) -> None:
    """Say on what a pupil plays in this group."""
    service.set_instrument(
        session,
        actor,
        studio_id,
        ensemble_id,
        member_id,
        instrument_id=wanted.instrument,
        now=now,
    )


@router.get(
    "/studios/{studio_id}/ensembles/{ensemble_id}/slips.pdf",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
    dependencies=[Depends(Counts("downloads"))],
)
def print_plan_slips(
    studio_id: str, ensemble_id: str, session: Store, actor: Asker, now: Now
) -> Response:
    """A slip for each pupil, with what the strings want and the steps, to be printed."""
    from meldrin.reports.ensemble_pdf import PlanSlip, ensemble_pdf

    found = service.check_ensemble(session, actor, studio_id, ensemble_id, now=now)
    session.close()
    slips = [
        PlanSlip(one.player, stands)
        for one, stands in zip(found.playing, found.check.players, strict=True)
    ]
    pdf = ensemble_pdf(slips, found.agreed, heading=found.row.name)
    headers = {"Content-Disposition": 'attachment; filename="meldrin-concert.pdf"'}
    return Response(pdf, media_type="application/pdf", headers=headers)


def _row_of(row: EnsembleRow) -> EnsembleRowPage:
    return EnsembleRowPage(id=row.public_id, name=row.name, a4_hz=row.a4_hz, changed=row.changed_at)


def _page_of(found: service.Checked) -> EnsemblePage:
    return EnsemblePage(
        **_row_of(found.row).model_dump(),
        group=None if found.group is None else found.group[0],
        group_name="All pupils" if found.group is None else found.group[1],
        fifth_cents=found.agreed.fifth_cents,
        says=found.check.says,
        fifths=list(found.check.fifths),
        help_first=list(found.check.help_first),
        players=[
            EnsemblePlayer(
                id=one.id,
                name=one.player.name,
                instrument=one.instrument,
                instrument_name=one.player.instrument.short_name,
                strings=[
                    EnsembleString(
                        string=each.string,
                        label=each.label,
                        wanted_cents=each.wanted_cents,
                        off_cents=each.off_cents,
                        source=each.source,
                    )
                    for each in stands.strings
                ],
                says=stands.says,
            )
            for one, stands in zip(found.playing, found.check.players, strict=True)
        ],
    )
