"""Instruments as data files, and the loader that refuses a bad one with file, line and reason."""

from meldrin.core.catalogue.chord import Chord as Chord
from meldrin.core.catalogue.instrument import (
    Body,
    Instrument,
    Losses,
    Played,
    Resonance,
    tuning_said,
)
from meldrin.core.catalogue.load import (
    Catalogue,
    instrument,
    instrument_of,
    instrument_text,
    instruments,
    read_instrument,
)
from meldrin.core.catalogue.tuning import Tuning, check_tuning, tonic_of, tuning_of_notes
