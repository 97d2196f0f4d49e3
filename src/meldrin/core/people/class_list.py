"""A class from a list: names, and the groups they are in, as a spreadsheet saves them."""

import csv
import io
from dataclasses import dataclass
from typing import Final

from meldrin.core.errors import Code, MeldrinError
from meldrin.core.people.names import key_of_name, name_said, title_said

MOST_PUPILS_OF_A_LIST: Final = 200
MOST_GROUPS_OF_A_PUPIL: Final = 5
SEPARATORS: Final = ";\t,"
NAME_HEADS: Final = ("name", "pupil", "pupils", "names", "first name")
GROUP_HEADS: Final = ("group", "groups", "class")


@dataclass(frozen=True, slots=True)
class Listed:
    """A pupil of a list: what the teacher calls them, and the groups they are in."""

    name: str
    groups: tuple[str, ...] = ()


def class_list(text: str) -> tuple[Listed, ...]:
    """Return the pupils of a list, in its order.

    Args:
        text: a line for each pupil, as a spreadsheet saves it: the name, then groups, if there are
            any, separated by commas, semicolons or tabs. A first line of heads (“name”, “group”)
            tells which column is which; other columns are passed over. Without heads the first
            column is the name and the others are groups.

    Raises:
        MeldrinError: code ``class_list``, with the line: for a name that cannot be, or stands there
            twice, and for no pupils or more than 200.

    >>> [one.name for one in class_list("name,group\\nTarek,Saturday\\nLiv,")]
    ['Tarek', 'Liv']
    """
    rows = _rows(text)
    name_at, groups_at = 0, None
    if rows:
        heads = [cell.casefold() for cell in rows[0][1]]
        named = [n for n, head in enumerate(heads) if head in NAME_HEADS]
        if named:
            name_at = named[0]
            groups_at = tuple(n for n, head in enumerate(heads) if head in GROUP_HEADS)
            rows = rows[1:]
    found: dict[str, Listed] = {}
    for line, cells in rows:
        pupil = _pupil(line, cells, name_at=name_at, groups_at=groups_at)
        key = key_of_name(pupil.name)
        if key in found:
            raise _wrong(line, f"“{pupil.name}” stands there twice. Add a letter or a number.")
        found[key] = pupil
        if len(found) > MOST_PUPILS_OF_A_LIST:
            raise _wrong(line, f"a list has at most {MOST_PUPILS_OF_A_LIST} pupils. Make two.")
    if not found:
        raise MeldrinError(Code.CLASS_LIST, "No pupils are listed. Write one name on each line.")
    return tuple(found.values())


def _rows(text: str) -> list[tuple[int, list[str]]]:
    """Return the lines that hold something, with their numbers."""
    text = text.lstrip("\ufeff")
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = next((one for one in SEPARATORS if one in first), ",")
    try:
        reader = csv.reader(io.StringIO(text), delimiter=separator)
        rows = [(reader.line_num, [cell.strip() for cell in row]) for row in reader]
    except csv.Error as error:
        raise MeldrinError(
            Code.CLASS_LIST, f"This is not a list as a spreadsheet saves it: {error}."
        ) from error
    return [(line, cells) for line, cells in rows if any(cells)]


def _pupil(
    line: int, cells: list[str], *, name_at: int, groups_at: tuple[int, ...] | None
) -> Listed:
    if groups_at is None:
        groups_at = tuple(n for n in range(len(cells)) if n != name_at)
    groups = [cells[n] for n in groups_at if n < len(cells) and cells[n]]
    try:
        name = name_said(cells[name_at] if name_at < len(cells) else "")
        said = {key_of_name(one): title_said(one) for one in groups}
    except MeldrinError as error:
        raise _wrong(line, error.message) from error
    if len(said) > MOST_GROUPS_OF_A_PUPIL:
        raise _wrong(line, f"a pupil is in at most {MOST_GROUPS_OF_A_PUPIL} groups.")
    return Listed(name, tuple(said.values()))


def _wrong(line: int, said: str) -> MeldrinError:
    return MeldrinError(Code.CLASS_LIST, f"Line {line}: {said[:1].lower()}{said[1:]}", line=line)
