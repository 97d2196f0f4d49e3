"""Strings on a frame that gives, over nuts that grip: where everything comes to rest.

Every string's path shortens by the coupling times what all strings together gain in tension. Where
the nut grips, the piece between nut and post keeps its own tension as long as
exp(-m) < T_head/T_speaking < exp(m) (the capstan equation; Euler, 1769), and material slides over
the nut until that holds.
"""

import math
from typing import Final

from meldrin.core.bench.rig import Quirks
from meldrin.core.bench.state import State
from meldrin.core.changed import changed

ROUNDS: Final = 30  # of giving and sliding; each leaves a small part of the last one's change
NEWTON_ROUNDS: Final = 14
SLIDES_PAST: Final = 3e-7  # of the tension: nothing moves for less than a thousandth of a cent
AT_REST_M: Final = 1e-13  # a millionth of a cent


def rested(state: State) -> State:
    """Return the state after frame and nuts have come to rest."""
    rig = state.rig
    coupling, quirks = rig.frame_compliance_m_per_n, rig.quirks
    if not coupling and not any(one.grip for one in quirks):
        return state
    strings = state.strings
    paths = [
        one.path_m + now.fine_m + state.longer_m for one, now in zip(quirks, strings, strict=True)
    ]
    material = [now.material_m for now in strings]
    head = [now.head_m for now in strings]
    whole = [n for n, now in enumerate(strings) if not now.broken]
    gripping = [n for n in whole if quirks[n].grip]
    give = state.give_m
    for _ in range(ROUNDS):
        if coupling:
            give = _given(
                give, coupling, rig.load_n, [(quirks[n], paths[n], material[n]) for n in whole]
            )
        slid = False
        for n in gripping:
            moved = slid_m(
                quirks[n], path_m=paths[n] - give, material_m=material[n], head_m=head[n]
            )
            if moved:
                material[n] -= moved
                head[n] += moved
                slid = True
        if not slid or not coupling:
            break
    return changed(
        state,
        give_m=give,
        strings=tuple(
            now
            if now.material_m == material[n] and now.head_m == head[n]
            else changed(now, material_m=material[n], head_m=head[n])
            for n, now in enumerate(strings)
        ),
    )


def laid(state: State, *, down: bool) -> State:
    """Return the state with the instrument laid down, or taken up as it is played."""
    if state.lying == down:
        return state
    return rested(changed(state, lying=down))


def _given(
    give: float, coupling: float, load_n: float, held: list[tuple[Quirks, float, float]]
) -> float:
    """Solve give = coupling (total tension - load in tune) by Newton's method."""
    for _ in range(NEWTON_ROUNDS):
        total, rise = 0.0, 0.0
        for one, path_m, material_m in held:
            strain = (path_m - give) / material_m - 1.0
            if strain > 0.0:
                if one.slope:
                    growth = math.exp(one.slope * strain)
                    total += one.axial_stiffness_n * (growth - 1.0) / one.slope
                    rise += one.axial_stiffness_n * growth / material_m
                else:
                    total += one.axial_stiffness_n * strain
                    rise += one.axial_stiffness_n / material_m
        step = (coupling * (total - load_n) - give) / (1.0 + coupling * rise)
        give += step
        if -AT_REST_M < step < AT_REST_M:
            break
    return give


def pull_n(one: Quirks, strain: float) -> float:
    """Return the tension, carried on below 0 in a straight line so that a search passes over it."""
    if strain > 0.0 and one.slope:
        return one.axial_stiffness_n * math.expm1(one.slope * strain) / one.slope
    return one.axial_stiffness_n * strain


def _rise(one: Quirks, strain: float) -> float:
    """Return how tension grows with strain, in newtons for a unit of strain."""
    return (
        one.axial_stiffness_n * math.exp(one.slope * strain)
        if strain > 0.0
        else one.axial_stiffness_n
    )


def slid_m(one: Quirks, *, path_m: float, material_m: float, head_m: float) -> float:
    """Return how much unstretched material slides over the nut towards the post; 0 where friction
    holds it, negative where it slides out.

    Args:
        one: the string's elasticity, its grip and the length of its head piece.
        path_m: from anchor to nut, with what a pull or a pluck lengthens it by.
        material_m: the unstretched material there.
        head_m: the unstretched material between nut and post.
    """
    head_path_m, limit = one.head_m, math.exp(one.grip)
    head_n = pull_n(one, head_path_m / head_m - 1.0)
    speaking_n = pull_n(one, path_m / material_m - 1.0)
    past = limit * (1.0 + SLIDES_PAST)
    if head_n > 0.0 and head_n > speaking_n * past:
        ratio = limit
    elif speaking_n > 0.0 and speaking_n > head_n * past:
        ratio = 1.0 / limit
    else:
        return 0.0
    if not one.slope and head_n > 0.0 and speaking_n > 0.0:
        return _slid_linear_m(ratio, path_m, material_m, head_path_m, head_m)
    low, high = -head_m * 0.999, material_m * 0.999
    moved = 0.0
    for _ in range(NEWTON_ROUNDS):
        head_now, rest_now = head_m + moved, material_m - moved
        head_strain, strain = head_path_m / head_now - 1.0, path_m / rest_now - 1.0
        off = pull_n(one, head_strain) - ratio * pull_n(one, strain)
        slope = (
            -_rise(one, head_strain) * head_path_m / head_now**2
            - ratio * _rise(one, strain) * path_m / rest_now**2
        )
        better = min(max(moved - off / slope, low), high)
        done = abs(better - moved) < AT_REST_M
        moved = better
        if done:
            break
    return moved


def _slid_linear_m(
    ratio: float, path_m: float, material_m: float, head_path_m: float, head_m: float
) -> float:
    """Solve head_path/(head + x) - 1 = ratio (path/(material - x) - 1) for the root near 0: for a
    metal, whose tension goes with its strain, it is a quadratic in x.
    """
    more = ratio - 1.0
    b = more * (material_m - head_m) - head_path_m - ratio * path_m
    c = (head_path_m + more * head_m) * material_m - ratio * path_m * head_m
    return -2.0 * c / (b - math.sqrt(b * b + 4.0 * more * c))
