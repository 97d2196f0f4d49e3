"""A shared device over HTTP: who can sign in here, sign in, hand it on."""

from fastapi import APIRouter, Request, Response

from meldrin.server.accounts.schemas import SignedIn
from meldrin.server.browser import COOKIE, SHARED_COOKIE, remember
from meldrin.server.dependencies import Now, Route, Store
from meldrin.server.tablets.schemas import SharedPage, SharedPupil, SharedSignIn
from meldrin.services import accounts, tablets
from meldrin.services.identity import new_secret

router = APIRouter(prefix="/api/shared-device", tags=["studios"], route_class=Route)


@router.get("")
def show_shared_device(request: Request, response: Response, session: Store) -> SharedPage:
    """Whether this device is shared, and who can sign in on it."""
    studio = tablets.studio_of_device(session, request.cookies.get(SHARED_COOKIE))
    if studio is None:
        response.delete_cookie(SHARED_COOKIE)  # it is an ordinary one from now on
        return SharedPage(studio=None, pupils=[])
    return SharedPage(
        studio=studio.name,
        pupils=[
            SharedPupil(id=one.id, name=one.name) for one in tablets.names_there(session, studio)
        ],
    )


@router.post("/sign-in")
def sign_in_there(
    wanted: SharedSignIn, request: Request, response: Response, session: Store, now: Now
) -> SignedIn:
    """Sign in on a shared device by four pictures, for two hours at most."""
    secret = new_secret()
    found = tablets.sign_in_there(
        session,
        request.cookies.get(SHARED_COOKIE),
        wanted.pupil,
        wanted.pictures,
        secret=secret,
        now=now,
    )
    tablets.hand_on(session, secret=request.cookies.get(COOKIE))
    remember(request, response, secret)
    return SignedIn(name=accounts.name_of(session, found) or "")


@router.post("/hand-on", status_code=204)
def hand_on(request: Request, response: Response, session: Store) -> None:
    """Sign out whoever is signed in here, for the next pupil."""
    if request.cookies.get(SHARED_COOKIE):
        tablets.hand_on(session, secret=request.cookies.get(COOKIE))
        response.delete_cookie(COOKIE)
