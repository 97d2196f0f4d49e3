"""Instruments as data files, and the loader that refuses a bad one with file, line and reason."""

from meldrin.core.catalogue.instrument import Instrument, Losses
from meldrin.core.catalogue.load import instrument, read_instrument

__all__ = ["Instrument", "Losses", "instrument", "read_instrument"]
