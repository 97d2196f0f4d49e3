"""Accounts over HTTP: keep one’s work under a name, come back to it, see where one is signed in."""

from fastapi import APIRouter, Request, Response

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people import PictureGroup, picture_groups, picture_words
from meldrin.server.accounts.schemas import (
    KeepWanted,
    KeptWork,
    PassphraseGroup,
    PassphrasePicture,
    SignedIn,
    SignInPlace,
    SignInWanted,
)
from meldrin.server.browser import COOKIE, device_of, remember
from meldrin.server.dependencies import Asker, Guest, Now, Process, Route, Store
from meldrin.server.learner.routes import is_demo_teacher, leave_demo, refuse_demo
from meldrin.services import accounts
from meldrin.services.identity import new_secret

router = APIRouter(prefix="/api", tags=["accounts"], route_class=Route)


@router.get("/pictures")
def list_pictures() -> list[PassphraseGroup]:
    """The pictures of which four are a passphrase, sixteen of a kind."""
    return [_group_of(group) for group in picture_groups()]


@router.post("/account", status_code=201)
def keep_work(
    wanted: KeepWanted, request: Request, session: Store, actor: Guest, process: Process, now: Now
) -> KeptWork:
    """Keep what this browser has done under a name; told once is what brings its holder back."""
    refuse_demo(process, request)
    return _kept_of(accounts.keep_work(session, actor, wanted.name, now=now))


@router.post("/account/keys")
def make_new_keys(request: Request, session: Store, actor: Asker, process: Process) -> KeptWork:
    """Other pictures and another code; the ones before hold no longer."""
    refuse_demo(process, request)
    return _kept_of(accounts.new_keys(session, actor))


@router.post("/sign-in")
def sign_in(
    wanted: SignInWanted,
    request: Request,
    response: Response,
    session: Store,
    actor: Asker,
    process: Process,
    now: Now,
) -> SignedIn:
    """Come back to one’s work, by name and pictures or by the code of a slip."""
    if wanted.bring:
        refuse_demo(process, request)
        accounts.refuse_named(session, actor)
    secret, device = new_secret(), device_of(request)
    if wanted.code:
        found = accounts.sign_in_by_slip(
            session, wanted.code, secret=secret, device=device, now=now
        )
    else:
        found = accounts.sign_in(
            session, wanted.name, wanted.pictures, secret=secret, device=device, now=now
        )
    if wanted.bring:
        accounts.take_along(session, actor, found)
    remember(request, response, secret)
    return SignedIn(name=accounts.name_of(session, found) or "")


@router.post("/sign-out", status_code=204)
def sign_out(
    request: Request, response: Response, session: Store, actor: Asker, process: Process
) -> None:
    """Sign out in this browser."""
    if is_demo_teacher(process, request):
        leave_demo(request, response, process)
        return
    refuse_demo(process, request)
    if actor.learner is None:
        raise MeldrinError(Code.SIGN_IN, "Nobody is signed in here.")
    accounts.sign_out(session, actor, secret=request.cookies.get(COOKIE, ""))
    response.delete_cookie(COOKIE)


@router.get("/sign-ins")
def list_sign_ins(request: Request, session: Store, actor: Asker) -> list[SignInPlace]:
    """The browsers that one is signed in with, the one used last first."""
    found = accounts.sign_ins(session, actor, secret=request.cookies.get(COOKIE))
    return [
        SignInPlace(id=one.id, device=one.device, since=one.since, seen=one.seen, here=one.here)
        for one in found
    ]


@router.delete("/sign-ins/{sign_in_id}", status_code=204)
def end_sign_in(
    sign_in_id: str, request: Request, session: Store, actor: Asker, process: Process
) -> None:
    """Sign another browser out."""
    refuse_demo(process, request)
    accounts.end_sign_in(session, actor, sign_in_id)


def _group_of(group: PictureGroup) -> PassphraseGroup:
    pictures = [PassphrasePicture(id=one, words=words) for one, words in group.pictures.items()]
    return PassphraseGroup(name=group.name, pictures=pictures)


def _kept_of(kept: accounts.ShownKeys) -> KeptWork:
    words = picture_words()
    return KeptWork(
        name=kept.name,
        pictures=[PassphrasePicture(id=one, words=words[one]) for one in kept.pictures],
        code=kept.code,
    )
