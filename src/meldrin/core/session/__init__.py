"""What every kind of practice shares: a list of timed actions, stored by version, played again."""

from meldrin.core.session.log import Played, Practice, Sounds, Timed, played
from meldrin.core.session.shape import Record, Shape
