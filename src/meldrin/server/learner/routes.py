"""The learner itself: who is it, erase everything; in the demo, look as its pupil and come back."""

import hmac
import tempfile
import zipfile
from pathlib import Path
from typing import Literal

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import FileResponse, RedirectResponse
from sqlalchemy.orm import Session
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from meldrin.core.errors import Code, MeldrinError
from meldrin.server.browser import COOKIE, OWN_COOKIE, SHARED_COOKIE, remember
from meldrin.server.dependencies import Asker, Counts, Process, Route, Store
from meldrin.services import accounts, identity
from meldrin.services.actor import Actor
from meldrin.services.everything import everything_of
from meldrin.wire import Wire

router = APIRouter(tags=["learner"], route_class=Route)


class LearnerPage(Wire):
    """Who looks: somebody new, a guest, a learner with a name, or somebody who looks as the demo’s
    pupil.

    teaches: whether they teach in a studio.
    shared: whether this device is shared by the pupils of a studio.
    """

    who: Literal["newcomer", "guest", "learner", "demo"]
    name: str | None = None
    teaches: bool = False
    shared: bool = False


@router.get("/api/learner")
def show_learner(request: Request, session: Store, actor: Asker, process: Process) -> LearnerPage:
    """Who looks."""
    shared = bool(request.cookies.get(SHARED_COOKIE))
    if actor.learner is None:
        return LearnerPage(who="newcomer", shared=shared)
    if _is_demo(process, request):
        return LearnerPage(who="demo")
    name = accounts.name_of(session, actor)
    return LearnerPage(
        who="guest" if name is None else "learner",
        name=name,
        teaches=bool(actor.teaches),
        shared=shared,
    )


@router.delete("/api/learner", status_code=204)
def erase_learner(
    request: Request, response: Response, session: Store, actor: Asker, process: Process
) -> None:
    """Erase everything that is kept of the one who asks."""
    refuse_demo(process, request)
    identity.erase_learner(session, actor)
    response.delete_cookie(COOKIE)


@router.get(
    "/api/learner/everything.zip",
    response_class=Response,
    responses={200: {"content": {"application/zip": {}}}},
    dependencies=[Depends(Counts("downloads"))],
)
async def take_everything(session: Store, actor: Asker, process: Process) -> FileResponse:
    """All that is kept of the one who asks, as files in one archive."""
    async with process.turns.turn(actor):
        path = await run_in_threadpool(_packed, session, actor)
    headers = {"Content-Disposition": 'attachment; filename="meldrin.zip"'}
    gone = BackgroundTask(path.unlink, missing_ok=True)
    return FileResponse(path, media_type="application/zip", headers=headers, background=gone)


def _packed(session: Session, actor: Actor) -> Path:
    """Pack it into a file of its own, so that nothing is held while it is sent."""
    with tempfile.NamedTemporaryFile(prefix="meldrin-", suffix=".zip", delete=False) as file:
        path = Path(file.name)
        try:
            with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
                for name, text in everything_of(session, actor):
                    packed.writestr(name, text)
        except BaseException:
            path.unlink()
            raise
    session.rollback()
    return path


@router.get("/enter/{secret}", include_in_schema=False)
def enter_demo(secret: str, request: Request, process: Process) -> RedirectResponse:
    """In the demo: look as the made-up pupil whose twelve weeks were loaded, or be her teacher.
    What a guest had is found again on leaving.
    """
    settings = process.settings
    places = {settings.demo_secret: "/", settings.demo_teacher: "/teach"}
    place = next((to for wanted, to in places.items() if _is(wanted, secret)), None)
    if place is None:
        raise MeldrinError(Code.DEMO_ONLY, "There is no such page.")
    response = RedirectResponse(place, status_code=303)
    own = request.cookies.get(COOKIE)
    if own and own not in places:
        remember(request, response, own, name=OWN_COOKIE)
    remember(request, response, secret)
    return response


def _is(wanted: str, secret: str) -> bool:
    return bool(wanted) and hmac.compare_digest(wanted.encode(), secret.encode(errors="replace"))


@router.post("/api/learner/leave", status_code=204)
def leave_demo(request: Request, response: Response, process: Process) -> None:
    """Look no longer as the demo’s pupil or teacher, but at one’s own work."""
    if not _is_demo(process, request) and not is_demo_teacher(process, request):
        return
    own = request.cookies.get(OWN_COOKIE)
    if own:
        remember(request, response, own)
    else:
        response.delete_cookie(COOKIE)
    response.delete_cookie(OWN_COOKIE)


def refuse_demo(process: Process, request: Request) -> None:
    """Refuse what would change the demo’s pupil or teacher for everybody."""
    if _is_demo(process, request) or is_demo_teacher(process, request):
        raise MeldrinError(
            Code.DEMO_PUPIL,
            "The demo’s pupil and teacher are everybody’s here; go back to your own work.",
        )


def is_demo_teacher(process: Process, request: Request) -> bool:
    """Whether somebody looks as the demo’s teacher."""
    wanted = process.settings.demo_teacher
    return bool(wanted) and request.cookies.get(COOKIE) == wanted


def _is_demo(process: Process, request: Request) -> bool:
    wanted = process.settings.demo_secret
    return bool(wanted) and request.cookies.get(COOKIE) == wanted
