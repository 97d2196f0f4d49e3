"""Who may do what, a function each. What is not allowed is not found: nobody learns what others
have. A teacher who may do less than an owner is told so.
"""

from collections.abc import Collection

from meldrin.services.actor import Actor
from meldrin.store.tables import (
    AssignmentRow,
    AttemptRow,
    InstrumentRow,
    MemberRow,
    RemarkRow,
    RoundRow,
)


def may_see(actor: Actor, attempt: AttemptRow, *, pupil_in: Collection[int] = ()) -> bool:
    """Whether somebody may open an attempt, play it back and take it along.

    Args:
        pupil_in: the studios (ids) in which the one who made it is a pupil.
    """
    return actor.learner == attempt.learner_id or any(may_teach(actor, one) for one in pupil_in)


def may_play(actor: Actor, attempt: AttemptRow) -> bool:
    """Whether somebody may go on with an attempt."""
    return actor.learner == attempt.learner_id


def may_erase(actor: Actor, thing: AttemptRow | InstrumentRow) -> bool:
    """Whether somebody may erase an attempt or an instrument."""
    return actor.learner == thing.learner_id


def may_teach(actor: Actor, studio: int) -> bool:
    """Whether somebody may see a studio's pupils and their work, and see to its lists."""
    return studio in actor.teaches


def may_own(actor: Actor, studio: int) -> bool:
    """Whether somebody may see to a studio's teachers, and to the studio itself."""
    return actor.teaches.get(studio) == "owner"


def may_call(actor: Actor, member: MemberRow) -> bool:
    """Whether somebody may change what a member is called in the studio."""
    return may_own(actor, member.studio_id) or (
        may_teach(actor, member.studio_id)
        and (member.role == "pupil" or member.learner_id == actor.learner)
    )


def may_reset(actor: Actor, member: MemberRow, *, teaches: bool) -> bool:
    """Whether somebody may make a new slip for a member, which lets its holder in as them.

    Args:
        teaches: they teach in some studio, which nobody may get into by that.
    """
    return (
        may_teach(actor, member.studio_id)
        and not teaches
        and member.role == "pupil"
        and (member.made_here or member.lets_reset)
    )


def may_erase_pupil(actor: Actor, member: MemberRow, *, teaches: bool) -> bool:
    """Whether somebody may erase a member with all their work: only whom the studio made itself,
    and who does not teach in some studio, which might be left without an owner.
    """
    return (
        may_teach(actor, member.studio_id)
        and not teaches
        and member.role == "pupil"
        and member.made_here
    )


def may_remark(actor: Actor, *, pupil_in: Collection[int]) -> bool:
    """Whether somebody may remark on an attempt.

    Args:
        pupil_in: the studios (ids) in which the one who made it is a pupil.
    """
    return any(may_teach(actor, one) for one in pupil_in)


def may_change_remark(actor: Actor, found: RemarkRow) -> bool:
    """Whether somebody may say a remark in other words, or erase it: only who made it."""
    return actor.learner is not None and actor.learner == found.author_id


def may_answer(actor: Actor, attempt: AttemptRow) -> bool:
    """Whether somebody may do the spot of a remark again: only whose attempt it is on."""
    return actor.learner == attempt.learner_id


def may_do(actor: Actor, assignment: AssignmentRow, *, has_it: bool) -> bool:
    """Whether somebody may do an exercise that was given.

    Args:
        has_it: it was given to them, or they came by its code.
    """
    return has_it or may_teach(actor, assignment.studio_id)


def may_watch(actor: Actor, found: RoundRow, *, has_seat: bool) -> bool:
    """Whether somebody may see how a round stands.

    Args:
        has_seat: they judge in it.
    """
    return has_seat or may_teach(actor, found.studio_id)
