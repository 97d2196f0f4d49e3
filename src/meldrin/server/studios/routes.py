"""Studios over HTTP: made, joined, seen to by those who teach there, and erased."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from meldrin.core.people import class_list, title_said
from meldrin.reports.progress import ProgressPage, progress_page
from meldrin.server.accounts.schemas import SignedIn
from meldrin.server.attempts.present import summary_of
from meldrin.server.attempts.schemas import AttemptFilter, AttemptList
from meldrin.server.browser import COOKIE, SHARED_COOKIE, remember
from meldrin.server.dependencies import Asker, Counts, Guest, Now, Process, Route, Store
from meldrin.server.learner.routes import is_demo_teacher, refuse_demo
from meldrin.server.studios.present import (
    entry_of,
    page_of,
    place_of,
    printed_of,
    shelved_of,
    slip_of,
)
from meldrin.server.studios.schemas import (
    AuditEntry,
    ClassList,
    CodeMade,
    DeviceWanted,
    JoinCode,
    JoinWanted,
    ListedPupil,
    MemberChange,
    PupilSlip,
    ShelvedInstrument,
    SlipsToPrint,
    StudioDoor,
    StudioEnded,
    StudioGroup,
    StudioInstrument,
    StudioPage,
    StudioPlace,
    StudioWanted,
)
from meldrin.server.today.schemas import ProgressAsked
from meldrin.services import audit, pupils, school_instruments, studios, tablets
from meldrin.services.actor import Actor
from meldrin.services.attempts import Filter, list_attempts
from meldrin.services.identity import new_secret
from meldrin.services.limits import use
from meldrin.services.progress import progress_of

router = APIRouter(prefix="/api", tags=["studios"], route_class=Route)
PDF: dict[int | str, dict[str, Any]] = {200: {"content": {"application/pdf": {}}}}


@router.get("/studios")
def list_studios(session: Store, actor: Asker) -> list[StudioPlace]:
    """The studios one is in."""
    return [place_of(one) for one in studios.places(session, actor)]


@router.get("/looks")
def list_looks(session: Store, actor: Asker) -> list[AuditEntry]:
    """What those who teach one saw and changed of one’s own, the newest first."""
    return [entry_of(one) for one in audit.about(session, actor)]


@router.post("/studios", status_code=201)
def make_studio(wanted: StudioWanted, session: Store, actor: Asker, now: Now) -> StudioPage:
    """Make a studio, which one owns then; for whoever has a name."""
    row = studios.make_studio(session, actor, wanted.name, now=now)
    return page_of(session, Actor(actor.learner, {row.id: "owner"}), row)


@router.post("/studios/join/look")
def look_at_door(wanted: JoinCode, session: Store, actor: Guest, now: Now) -> StudioDoor:
    """What a code lets one into."""
    found = studios.door(session, actor, wanted.code, now=now)
    return StudioDoor(name=found.studio.name, role=found.role, teachers=list(found.teachers))


@router.post("/studios/join", status_code=201)
def join_studio(
    wanted: JoinWanted, request: Request, session: Store, actor: Guest, process: Process, now: Now
) -> list[StudioPlace]:
    """Become a pupil of a studio, or by an invitation one of its teachers."""
    refuse_demo(process, request)
    studios.join(
        session,
        actor,
        wanted.code,
        name=wanted.name,
        lets_reset=wanted.lets_reset,
        now=now,
    )
    return [place_of(one) for one in studios.places(session, actor)]


@router.get("/studios/{studio_id}")
def open_studio(studio_id: str, session: Store, actor: Asker) -> StudioPage:
    """A studio, for those who teach there."""
    return page_of(session, actor, studios.taught(session, actor, studio_id))


@router.patch("/studios/{studio_id}", status_code=204)
def rename_studio(
    studio_id: str, wanted: StudioWanted, session: Store, actor: Asker, now: Now
) -> None:
    """Give a studio another name."""
    studios.rename_studio(session, actor, studio_id, wanted.name, now=now)


@router.post("/studios/{studio_id}/leave", status_code=204)
def leave_studio(
    studio_id: str, request: Request, session: Store, actor: Asker, process: Process, now: Now
) -> None:
    """Leave a studio; one's work stays one's own."""
    refuse_demo(process, request)
    studios.leave(session, actor, studio_id, now=now)


@router.post("/studios/{studio_id}/code")
def make_join_code(studio_id: str, session: Store, actor: Asker, now: Now) -> CodeMade:
    """A new code for pupils who come by themselves; the one before holds no longer."""
    return CodeMade(code=studios.new_join_code(session, actor, studio_id, now=now))


@router.delete("/studios/{studio_id}/code", status_code=204)
def close_door(studio_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Let nobody in by a code any more."""
    studios.close_door(session, actor, studio_id, now=now)


@router.post("/studios/{studio_id}/invitations", status_code=201)
def invite_teacher(studio_id: str, session: Store, actor: Asker, now: Now) -> CodeMade:
    """A code that lets one teacher in, once, within a week."""
    return CodeMade(code=studios.invite_teacher(session, actor, studio_id, now=now))


@router.post("/studios/{studio_id}/class/look")
def look_at_list(
    studio_id: str, wanted: ClassList, session: Store, actor: Asker
) -> list[ListedPupil]:
    """The pupils of a list, before they are made."""
    studio = studios.taught(session, actor, studio_id)
    listed = class_list(wanted.text)
    taken = set(pupils.names_taken(session, studio, listed))
    return [
        ListedPupil(name=one.name, groups=list(one.groups), taken=one.name in taken)
        for one in listed
    ]


@router.post("/studios/{studio_id}/class", status_code=201)
async def make_class(
    studio_id: str, wanted: ClassList, session: Store, actor: Asker, process: Process, now: Now
) -> list[PupilSlip]:
    """Make a pupil of each line of a list. Their slips are told once."""

    def make() -> list[PupilSlip]:
        studios.taught(session, actor, studio_id)
        use(session, actor, "imports", now=now)
        listed = class_list(wanted.text)
        return [
            slip_of(one) for one in pupils.make_class(session, actor, studio_id, listed, now=now)
        ]

    async with process.turns.turn(actor):
        return await run_in_threadpool(make)


@router.post("/slips.pdf", response_class=Response, responses=PDF)
def print_slips(wanted: SlipsToPrint, request: Request) -> Response:
    """Slips to be cut apart; nothing of them is kept."""
    from meldrin.reports.slips_pdf import slips_pdf

    address = str(request.base_url).rstrip("/")
    printed = [printed_of(one, address=address) for one in wanted.slips]
    made = slips_pdf(printed, heading=title_said(wanted.heading), address=address)
    return _pdf(made, "slips")


@router.patch("/studios/{studio_id}/members/{member_id}", status_code=204)
def change_member(
    studio_id: str,
    member_id: str,
    wanted: MemberChange,
    session: Store,
    actor: Asker,
    now: Now,
) -> None:
    """Call a member otherwise, put them into groups, or make a teacher an owner."""
    if wanted.role is not None:
        studios.give_role(session, actor, studio_id, member_id, wanted.role, now=now)
    pupils.call_member(
        session,
        actor,
        studio_id,
        member_id,
        name=wanted.name,
        groups=wanted.groups,
        now=now,
    )


@router.delete("/studios/{studio_id}/members/{member_id}", status_code=204)
def remove_member(studio_id: str, member_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Take somebody out of a studio; their work stays their own."""
    pupils.remove_member(session, actor, studio_id, member_id, now=now)


@router.delete("/studios/{studio_id}/members/{member_id}/everything", status_code=204)
def erase_pupil(studio_id: str, member_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Erase a pupil whom the studio made, with all their work."""
    pupils.erase_pupil(session, actor, studio_id, member_id, now=now)


@router.post("/studios/{studio_id}/members/{member_id}/slip", status_code=201)
def make_slip(studio_id: str, member_id: str, session: Store, actor: Asker, now: Now) -> PupilSlip:
    """A new slip for a pupil; the one before holds no longer, and they are signed out."""
    return slip_of(pupils.new_slip(session, actor, studio_id, member_id, now=now))


@router.get("/studios/{studio_id}/members/{member_id}/attempts")
def list_pupil_attempts(
    studio_id: str,
    member_id: str,
    wanted: Annotated[AttemptFilter, Query()],
    session: Store,
    actor: Asker,
    now: Now,
) -> AttemptList:
    """A pupil's attempts, the newest first. That they were looked at is written down."""
    learner, _ = _looked_at(session, actor, studio_id, member_id, now)
    chosen = Filter(**wanted.model_dump(exclude={"after", "most"}))
    page = list_attempts(session, learner, chosen, after=wanted.after, most=wanted.most)
    return AttemptList(attempts=[summary_of(one) for one in page.attempts], after=page.after)


@router.get("/studios/{studio_id}/members/{member_id}/progress")
def show_pupil_progress(
    studio_id: str,
    member_id: str,
    wanted: Annotated[ProgressAsked, Query()],
    session: Store,
    actor: Asker,
    now: Now,
) -> ProgressPage:
    """How a pupil gets on. That it was looked at is written down."""
    learner, name = _looked_at(session, actor, studio_id, member_id, now)
    return progress_page(progress_of(session, learner, weeks=wanted.weeks, now=now, who=name))


@router.get(
    "/studios/{studio_id}/members/{member_id}/progress.pdf",
    response_class=Response,
    responses=PDF,
    dependencies=[Depends(Counts("downloads"))],
)
def print_pupil_progress(
    studio_id: str,
    member_id: str,
    wanted: Annotated[ProgressAsked, Query()],
    session: Store,
    actor: Asker,
    now: Now,
) -> Response:
    """How a pupil gets on, on one page for their parents."""
    from meldrin.reports.progress_pdf import progress_pdf

    learner, name = _looked_at(session, actor, studio_id, member_id, now)
    page = progress_page(progress_of(session, learner, weeks=wanted.weeks, now=now, who=name))
    return _pdf(progress_pdf(page, at=now, name=name), "progress")


@router.post("/studios/{studio_id}/groups", status_code=201)
def make_group(
    studio_id: str, wanted: StudioWanted, session: Store, actor: Asker, now: Now
) -> StudioGroup:
    """Make a group."""
    row = pupils.make_group(session, actor, studio_id, wanted.name, now=now)
    return StudioGroup(id=row.public_id, name=row.name)


@router.patch("/studios/{studio_id}/groups/{group_id}", status_code=204)
def rename_group(
    studio_id: str, group_id: str, wanted: StudioWanted, session: Store, actor: Asker, now: Now
) -> None:
    """Give a group another name."""
    pupils.rename_group(session, actor, studio_id, group_id, wanted.name, now=now)


@router.delete("/studios/{studio_id}/groups/{group_id}", status_code=204)
def erase_group(studio_id: str, group_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Erase a group; its pupils stay."""
    pupils.erase_group(session, actor, studio_id, group_id, now=now)


@router.post("/studios/{studio_id}/instruments", status_code=201)
def shelve_instrument(
    studio_id: str, wanted: StudioInstrument, session: Store, actor: Asker, now: Now
) -> ShelvedInstrument:
    """Put an instrument on the studio's shelf."""
    value = wanted.value()
    key = school_instruments.keep_instrument(session, actor, studio_id, value, now=now)
    return shelved_of(key, value)


@router.put("/studios/{studio_id}/instruments/{instrument_id}", status_code=204)
def change_shelved(
    studio_id: str,
    instrument_id: str,
    wanted: StudioInstrument,
    session: Store,
    actor: Asker,
    now: Now,
) -> None:
    """Change what is kept of an instrument of the studio."""
    studios.taught(session, actor, studio_id)
    school_instruments.keep_instrument(
        session, actor, studio_id, wanted.value(), instrument_id=instrument_id, now=now
    )


@router.delete("/studios/{studio_id}/instruments/{instrument_id}", status_code=204)
def unshelve_instrument(
    studio_id: str, instrument_id: str, session: Store, actor: Asker, now: Now
) -> None:
    """Take an instrument off the studio's shelf."""
    school_instruments.remove_instrument(session, actor, studio_id, instrument_id, now=now)


@router.post("/studios/{studio_id}/devices", status_code=201)
def share_device(
    studio_id: str,
    wanted: DeviceWanted,
    request: Request,
    response: Response,
    session: Store,
    actor: Asker,
    process: Process,
    now: Now,
) -> SignedIn:
    """Let the studio's pupils share this browser; one is signed out here."""
    secret = new_secret()
    stays = is_demo_teacher(process, request)  # the address of the demo opens again
    tablets.share_device(
        session,
        actor,
        studio_id,
        name=wanted.name,
        secret=secret,
        own=None if stays else request.cookies.get(COOKIE),
        now=now,
    )
    remember(request, response, secret, name=SHARED_COOKIE)
    response.delete_cookie(COOKIE)
    return SignedIn(name="")


@router.delete("/studios/{studio_id}/devices/{tablet_id}", status_code=204)
def end_sharing(studio_id: str, tablet_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Share a device no longer."""
    tablets.end_sharing(session, actor, studio_id, tablet_id, now=now)


@router.post("/studios/{studio_id}/ending")
def end_studio(studio_id: str, session: Store, actor: Asker, now: Now) -> StudioEnded:
    """Ask that a studio is erased, or agree to it."""
    return StudioEnded(erased=studios.end_studio(session, actor, studio_id, now=now))


@router.delete("/studios/{studio_id}/ending", status_code=204)
def keep_studio(studio_id: str, session: Store, actor: Asker, now: Now) -> None:
    """Let a studio stay that was to be erased."""
    studios.keep_studio(session, actor, studio_id, now=now)


@router.get("/studios/{studio_id}/audit")
def show_audit(studio_id: str, session: Store, actor: Asker) -> list[AuditEntry]:
    """Who saw and changed what, the newest first."""
    studio = studios.owned(session, actor, studio_id)
    return [entry_of(one) for one in audit.entries(session, studio.id)]


def _looked_at(
    session: Store, actor: Actor, studio_id: str, member_id: str, now: Now
) -> tuple[Actor, str]:
    """Return the pupil as the one whose work it is, and their name; the look is written down."""
    studio, member = pupils.pupil_of(session, actor, studio_id, member_id)
    learner, name = Actor(member.learner_id), member.name
    audit.note_look(session, actor, studio.id, now=now, about=member)
    return learner, name


def _pdf(made: bytes, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="meldrin-{name}.pdf"'}
    return Response(made, media_type="application/pdf", headers=headers)
