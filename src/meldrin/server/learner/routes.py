"""The learner itself: erase everything; in the demo, look as its pupil. And: is the server well?"""

import hmac

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import text

from meldrin.core.errors import Code, MeldrinError
from meldrin.server.browser import COOKIE, remember
from meldrin.server.dependencies import Asker, Process, Store
from meldrin.services import identity

router = APIRouter(tags=["learner"])


@router.delete("/api/learner", status_code=204)
def erase_learner(response: Response, session: Store, actor: Asker) -> None:
    """Erase everything that is kept of the one who asks."""
    identity.erase_learner(session, actor)
    response.delete_cookie(COOKIE)


@router.get("/api/health")
def health(session: Store) -> dict[str, bool]:
    """Whether the server and its database answer."""
    session.execute(text("SELECT 1"))
    return {"well": True}


@router.get("/enter/{secret}", include_in_schema=False)
def enter_demo(secret: str, request: Request, process: Process) -> RedirectResponse:
    """In the demo: look as the made-up pupil whose twelve weeks were loaded."""
    wanted = process.settings.demo_secret
    if not wanted or not hmac.compare_digest(wanted.encode(), secret.encode()):
        raise MeldrinError(Code.DEMO_ONLY, "There is no such page.")
    response = RedirectResponse("/review", status_code=303)
    remember(request, response, secret)
    return response
