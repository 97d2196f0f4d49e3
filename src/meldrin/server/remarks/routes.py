"""Remarks over HTTP: pinned by a teacher, read and answered by the pupil."""

from fastapi import APIRouter
from starlette.concurrency import run_in_threadpool

from meldrin.server.dependencies import Asker, Now, Process, Route, Store
from meldrin.server.remarks.schemas import AgainBegun, RemarkChange, RemarkPage, RemarkWanted
from meldrin.services import remarks as service
from meldrin.services.limits import use

router = APIRouter(prefix="/api", tags=["remarks"], route_class=Route)


@router.get("/attempts/{attempt_id}/remarks")
async def list_remarks(
    attempt_id: str, session: Store, actor: Asker, now: Now, process: Process
) -> list[RemarkPage]:
    """The remarks on an attempt, in the order of its moments."""

    def read() -> list[RemarkPage]:
        found = service.remarks_on(session, actor, attempt_id, now=now)
        return [page_of(one) for one in found]

    async with process.turns.turn(actor):
        return await run_in_threadpool(read)


@router.post("/attempts/{attempt_id}/remarks", status_code=201)
async def pin_remark(
    attempt_id: str,
    wanted: RemarkWanted,
    session: Store,
    actor: Asker,
    now: Now,
    process: Process,
) -> RemarkPage:
    """Pin a remark to a moment of a pupil's attempt."""

    def pin() -> RemarkPage:
        made = service.remark(
            session, actor, attempt_id, at_s=wanted.at_s, text=wanted.text, now=now
        )
        return page_of(made)

    async with process.turns.turn(actor):
        return await run_in_threadpool(pin)


@router.get("/remarks")
def list_to_answer(session: Store, actor: Asker) -> list[RemarkPage]:
    """The remarks on one's own attempts that are not answered yet, the newest first."""
    return [page_of(one) for one in service.to_answer(session, actor)]


@router.patch("/remarks/{remark_id}")
def change_remark(remark_id: str, wanted: RemarkChange, session: Store, actor: Asker) -> RemarkPage:
    """Say a remark in other words."""
    return page_of(service.change_remark(session, actor, remark_id, text=wanted.text))


@router.delete("/remarks/{remark_id}", status_code=204)
def erase_remark(remark_id: str, session: Store, actor: Asker) -> None:
    """Erase a remark."""
    service.erase_remark(session, actor, remark_id)


@router.post("/remarks/{remark_id}/answer", status_code=201)
def answer_remark(remark_id: str, session: Store, actor: Asker, now: Now) -> AgainBegun:
    """Begin again where the step of a remark was met."""
    use(session, actor, "attempts", now=now)
    return AgainBegun(id=service.answer_remark(session, actor, remark_id, now=now))


def page_of(found: service.Remark) -> RemarkPage:
    """Return a remark as it is read."""
    made: RemarkPage = RemarkPage.model_validate(found)
    return made
