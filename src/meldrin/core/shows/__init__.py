"""Show the class: comparisons at one press, each with what to listen for."""

from meldrin.core.shows.show import SHOWS, Scene, Show, StringShown, show_of
