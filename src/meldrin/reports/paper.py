"""What printed pages have in common: their type, so that names of many languages can be read, and
their colours.
"""

from functools import cache
from importlib import resources
from typing import Final

from reportlab.lib.colors import Color, HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

INK: Final = HexColor("#16303d")
SOFT: Final = HexColor("#4b6470")
LINE: Final = HexColor("#b9cad2")
PLAIN, BOLD = "Meldrin", "Meldrin-Bold"


@cache
def with_type() -> None:
    """Make the type known: Figtree, whose letters are those of Latin and Central Europe."""
    fonts = resources.files(__package__).joinpath("fonts")
    for name, file in ((PLAIN, "regular.ttf"), (BOLD, "bold.ttf")):
        with resources.as_file(fonts.joinpath(file)) as path:
            pdfmetrics.registerFont(TTFont(name, path))
    pdfmetrics.registerFontFamily(PLAIN, normal=PLAIN, bold=BOLD, italic=PLAIN, boldItalic=BOLD)


def style(name: str, size: float, *, bold: bool = False, colour: Color = INK) -> ParagraphStyle:
    """Return how a paragraph looks."""
    with_type()
    return ParagraphStyle(
        name,
        fontName=BOLD if bold else PLAIN,
        fontSize=size,
        leading=1.3 * size,
        textColor=colour,
    )
