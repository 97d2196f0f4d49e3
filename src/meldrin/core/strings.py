"""One string: what tension it holds, what pitch that gives, what a turn of its peg does.

The state of a string is the length of unstretched material between its anchor and the post. Winding
takes material up, creep lets it out, a yielding neck shortens the path: each is a change of one
length, and strain, tension and pitch follow from it.
"""

import math
from dataclasses import dataclass, field
from typing import Final, Literal, get_args

from meldrin.core.errors import Code, MeldrinError, within
from meldrin.core.pitch import checked_hz

EVERYDAY_SHARE: Final = 0.70  # bends, kinks and rust take 10-30 % off a straight new string
WARNING_SHARE: Final = 0.80
Role = Literal["playing", "drone", "sympathetic"]
ROLES: Final[tuple[Role, ...]] = get_args(Role)
PegKind = Literal[
    "friction peg",
    "geared machine",
    "geared machine (worm)",
    "geared peg (planetary)",
    "geared peg (side)",
]
PegSide = Literal["treble", "bass"]
Way = Literal["clockwise", "anticlockwise"]
FineKind = Literal["tail lever", "bead"]
MOST_STRAIN: Final = 0.5
MOST_ROUNDS: Final = 60


@dataclass(frozen=True, slots=True)
class Peg:
    """How a string is wound up: `gear_ratio` turns of the knob turn the post once.

    side: of the highest or of the lowest string, as one looks at the strings.
    tightens: which way, as one looks at the end of its knob.
    """

    kind: PegKind
    gear_ratio: float
    post_m: float
    side: PegSide = "treble"
    tightens: Way = "anticlockwise"

    def __post_init__(self) -> None:
        within(self.gear_ratio, name="gear ratio", low=1.0, high=60.0)
        within(self.post_m, name="post diameter", low=0.002, high=0.03, unit="m")

    @property
    def word(self) -> str:
        """What players call it: a peg, or a tuning machine."""
        return "peg" if "peg" in self.kind else "tuning machine"


@dataclass(frozen=True, slots=True)
class FineTuner:
    """A lever or bead for the last cents, which takes up at most `take_up_m` of string."""

    kind: FineKind
    take_up_m: float

    def __post_init__(self) -> None:
        within(self.take_up_m, name="fine tuner's travel", low=1e-5, high=0.02, unit="m")


@dataclass(frozen=True, slots=True)
class String:
    """A string as it is made, with its mass and diameters at its designed pitch `midi` at A4 = 440.

    Lengths in metres, linear density in kg per metre at pitch, modulus in pascal at no load,
    `modulus_slope` its growth per unit of stress (0 for metal), `packing` the share of the core's
    cross-section that carries load (below 1 for ropes), `bending_factor` the stiffness of the core
    against that of a solid rod. `nut_fret` is the fret at which a short string begins (0 for all
    others), `label` what players write for its number where that is not the number itself.
    `fret_cents` says how far frets 1 to 12, and those an octave above, lie from equal temperament;
    it is empty where they lie in it.
    """

    number: int
    course: int
    midi: int
    scale_m: float
    material: str
    core_m: float
    outer_m: float
    packing: float
    linear_density_kg_per_m: float
    modulus_pa: float
    modulus_slope: float
    breaking_n: float
    bending_factor: float
    dead_nut_m: float
    dead_bridge_m: float
    peg: Peg
    fine: FineTuner | None = None
    role: Role = "playing"
    label: str | None = None
    nut_fret: int = 0
    fret_cents: tuple[float, ...] = ()
    # What follows from the above once and is asked for at every turn: the cross-section which
    # carries the tension (a wrap carries nothing), and the elastic strain at the designed pitch.
    load_area_m2: float = field(init=False, repr=False, compare=False)
    design_strain: float = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        within(self.scale_m, name="scale length", low=0.2, high=1.4, unit="m")
        within(self.core_m, name="core diameter", low=1e-4, high=5e-3, unit="m")
        within(self.outer_m, name="outer diameter", low=self.core_m, high=8e-3, unit="m")
        within(self.packing, name="packing", low=0.3, high=1.0)
        within(self.linear_density_kg_per_m, name="linear density", low=1e-5, high=0.1, unit="kg/m")
        within(self.modulus_pa, name="Young's modulus", low=1e8, high=5e11, unit="Pa")
        within(self.modulus_slope, name="modulus slope", low=0.0, high=50.0)
        within(self.breaking_n, name="breaking load", low=5.0, high=5000.0, unit="N")
        within(self.bending_factor, name="bending factor", low=0.01, high=1.0)
        within(self.dead_nut_m, name="length behind the nut", low=0.0, high=0.5, unit="m")
        within(self.dead_bridge_m, name="length behind the bridge", low=0.0, high=0.5, unit="m")
        within(self.nut_fret, name="fret the string begins at", low=0, high=12)
        area_m2 = self.packing * math.pi / 4.0 * self.core_m**2
        object.__setattr__(self, "load_area_m2", area_m2)
        strain = strain_at_tension(self, design_tension_n(self))
        object.__setattr__(self, "design_strain", strain)

    @property
    def written(self) -> str:
        """What players write for its number."""
        return self.label or str(self.number)

    @property
    def total_m(self) -> float:
        """The whole stressed length, from anchor to post."""
        return self.scale_m + self.dead_nut_m + self.dead_bridge_m

    @property
    def design_hz(self) -> float:
        """The fundamental the string is made for, at A4 = 440."""
        return float(440.0 * 2.0 ** ((self.midi - 69) / 12.0))


def design_tension_n(string: String) -> float:
    """Return the tension at the designed pitch: T = mu (2 L f)^2 (Mersenne, 1636)."""
    return string.linear_density_kg_per_m * (2.0 * string.scale_m * string.design_hz) ** 2


def strain_at_tension(string: String, tension_n: float) -> float:
    """Return the elastic strain (dimensionless) at a tension in newtons.

    For E = E0 + k stress the stress grows as (E0/k)(exp(k strain) - 1), so
    strain = ln(1 + k stress/E0)/k; for metal (k = 0) it is stress/E0.
    """
    stress = tension_n / string.load_area_m2
    if string.modulus_slope == 0.0:
        return stress / string.modulus_pa
    return math.log1p(string.modulus_slope * stress / string.modulus_pa) / string.modulus_slope


def tension_at_strain(string: String, strain: float) -> float:
    """Return the tension in newtons at an elastic strain; 0 for a string that hangs slack."""
    if strain <= 0.0:
        return 0.0
    slope = string.modulus_slope
    growth = strain if slope == 0.0 else math.expm1(slope * strain) / slope
    return string.modulus_pa * growth * string.load_area_m2


def frequency_at_strain(string: String, strain: float) -> float:
    """Return the flexible-string fundamental f0 of the open string, in Hz; 0 when slack.

    f0 = sqrt(T/mu) / 2L with the mass in the speaking length thinned by the stretch,
    mu = mu_design (1 + strain_design) / (1 + strain).
    """
    design = string.design_strain
    density = string.linear_density_kg_per_m * (1.0 + design) / (1.0 + max(strain, 0.0))
    return math.sqrt(tension_at_strain(string, strain) / density) / (2.0 * string.scale_m)


def strain_at_frequency(string: String, frequency_hz: float) -> float:
    """Return the strain at which the open string's f0 is `frequency_hz`; inverse of the above.

    T(e) (1 + e) = 4 L^2 f^2 mu_design (1 + e_design) by Newton's method: the left side is convex
    and rising, so from its second round on the search comes down to the root, until rounding
    stops it.

    Raises:
        OutOfRange: for a frequency outside 8 Hz to 20 kHz.
        MeldrinError: code ``unreachable``, above what a strain of 50 % would give.
    """
    goal = checked_hz(frequency_hz)
    if frequency_at_strain(string, MOST_STRAIN) < goal:
        raise MeldrinError(
            Code.UNREACHABLE, f"String {string.number} cannot be brought to {goal:g} Hz."
        )
    design = string.design_strain
    wanted = string.linear_density_kg_per_m * (1.0 + design) * (2.0 * string.scale_m * goal) ** 2
    axial_stiffness_n, slope = string.modulus_pa * string.load_area_m2, string.modulus_slope
    strain = design
    for round_number in range(MOST_ROUNDS):
        rise = axial_stiffness_n * math.exp(slope * strain)
        tension_n = axial_stiffness_n * (
            strain if slope == 0.0 else math.expm1(slope * strain) / slope
        )
        better = strain - (tension_n * (1.0 + strain) - wanted) / (
            rise * (1.0 + strain) + tension_n
        )
        if round_number > 0 and better >= strain:
            break
        strain = min(max(better, 0.0), MOST_STRAIN)
    return strain


def unstretched_at_strain(string: String, strain: float) -> float:
    """Return the unstretched length in metres that fills the string's path at this strain."""
    return string.total_m / (1.0 + strain)


def strain_of(string: String, unstretched_m: float) -> float:
    """Return the strain of a string with this much material in its path; negative when slack."""
    return string.total_m / unstretched_m - 1.0


def taken_up_m(string: String, *, knob_deg: float) -> float:
    """Return how much stretched string the post takes up for a turn of the knob, in metres.

    (pi/180) (post + outer)/2 / ratio per degree.
    """
    arm = (string.peg.post_m + string.outer_m) / 2.0
    return math.radians(knob_deg) * arm / string.peg.gear_ratio


def wound(string: String, unstretched_m: float, *, knob_deg: float) -> float:
    """Return the unstretched length after the knob is turned by `knob_deg` (positive tightens).

    The post takes up s of stretched string, which is ds/(1 + strain) of material; integrated, the
    material left shrinks by exp(-s/total). It assumes that the string slides freely over the nut
    and that nothing else gives.
    """
    return unstretched_m * math.exp(-taken_up_m(string, knob_deg=knob_deg) / string.total_m)


def cents_per_strain(string: String, strain: float) -> float:
    """Return the change of the open string's pitch in cents for a unit of strain, at this strain.

    f0 grows as sqrt(T (1 + strain)), so it is 600/ln 2 (T'/T + 1/(1 + strain)), which is about 866
    (EA/T + 1): what bends, heat, a peg and a yielding neck do all goes by it. Infinite when slack.
    """
    tension_n = tension_at_strain(string, strain)
    if tension_n <= 0.0:
        return math.inf
    axial_stiffness_n = string.load_area_m2 * (
        string.modulus_pa * math.exp(string.modulus_slope * strain)
    )
    return 600.0 / math.log(2.0) * (axial_stiffness_n / tension_n + 1.0 / (1.0 + strain))


def cents_per_degree(string: String, *, tension_n: float) -> float:
    """Return the change of the open string's pitch for one degree of the knob, in cents.

    One degree stretches by s/total, which is (1 + strain) s/total of strain (first order; `wound`
    is exact).
    """
    strain = strain_at_tension(string, tension_n)
    arm = (string.peg.post_m + string.outer_m) / 2.0
    stretch = math.radians(1.0) * arm / string.peg.gear_ratio / string.total_m
    return cents_per_strain(string, strain) * (1.0 + strain) * stretch


def inharmonicity(string: String, *, tension_n: float, speaking_m: float) -> float:
    """Return the inharmonicity coefficient B of the string over a speaking length.

    B = q pi^3 E d^4 / (64 T L^2) with the core's diameter d (Fletcher, 1964). Computed from the
    core alone: a wrap adds some 10 to 100 %, so for wound strings it is a lower bound.
    A string without tension has no partials; its B is infinite.
    """
    if tension_n <= 0.0:
        return math.inf
    modulus = string.modulus_pa + string.modulus_slope * tension_n / string.load_area_m2
    rod = math.pi**3 * modulus * string.core_m**4 / (64.0 * tension_n * speaking_m**2)
    return string.bending_factor * rod


def partial_hz(fundamental_hz: float, *, number: int, inharmonicity_b: float) -> float:
    """Return the frequency of partial `number`: n f0 sqrt(1 + B n^2) (Fletcher, 1964), in Hz."""
    return number * fundamental_hz * math.sqrt(1.0 + inharmonicity_b * number**2)


def semitones_at(string: String, fret: int) -> int:
    """Return how many semitones above the open string a fret lies (0: open).

    Frets are counted along the whole neck, so a string that begins at fret 5 gives its octave at
    fret 17.

    Raises:
        MeldrinError: code ``fret``, for a fret the string does not pass over.
    """
    if fret == 0:
        return 0
    if fret <= string.nut_fret:
        raise MeldrinError(
            Code.FRET,
            f"String {string.number} begins at fret {string.nut_fret}, above fret {fret}.",
        )
    return fret - string.nut_fret


def stopped_cents(string: String, fret: int) -> float:
    """Return how far a string stopped at a fret sounds above the open string (0: open)."""
    cents = 100.0 * semitones_at(string, fret)
    if string.fret_cents and fret:
        cents += string.fret_cents[(fret - 1) % len(string.fret_cents)]
    return cents


def stopped_ratio(string: String, fret: int) -> float:
    """Return the pitch of a string stopped at a fret over that of the open string (0: open)."""
    return float(2.0 ** (stopped_cents(string, fret) / 1200.0))


def stopped_m(string: String, fret: int) -> float:
    """Return the speaking length when stopped at a fret (0: open)."""
    return string.scale_m / stopped_ratio(string, fret)


def breaking_share(string: String, *, tension_n: float) -> float:
    """Return the tension as a share of the estimated breaking load of a straight new string."""
    return tension_n / string.breaking_n


def sounding_hz(string: String, *, strain: float, fret: int, number: int) -> float:
    """Return the frequency in Hz of partial `number` of the string stopped at `fret` (0: open).

    True frets and a light finger: the tension stays that of the open string, the length shrinks by
    2^(-fret/12), and B grows as 1/length squared. 0 for a slack string.
    """
    tension_n = tension_at_strain(string, strain)
    if tension_n <= 0.0:
        return 0.0
    fundamental = frequency_at_strain(string, strain) * stopped_ratio(string, fret)
    inharmonicity_b = inharmonicity(string, tension_n=tension_n, speaking_m=stopped_m(string, fret))
    return partial_hz(fundamental, number=number, inharmonicity_b=inharmonicity_b)


def strain_sounding(string: String, *, frequency_hz: float, fret: int, number: int) -> float:
    """Return the strain at which that partial, stopped there, has this frequency; the inverse.

    Stiffness raises a partial by a few cents, so correcting the goal by the ratio found gains
    two digits or more a round: eight at most leave nothing but rounding, also far below the usual
    pitch.
    """
    goal = checked_hz(frequency_hz)
    fundamental = goal / number / stopped_ratio(string, fret)
    strain = strain_at_frequency(string, fundamental)
    for _ in range(8):
        ratio = goal / sounding_hz(string, strain=strain, fret=fret, number=number)
        if abs(ratio - 1.0) < 1e-14:
            break
        fundamental *= ratio
        strain = strain_at_frequency(string, fundamental)
    return strain
