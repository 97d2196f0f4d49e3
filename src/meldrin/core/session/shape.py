"""How values are stored: plain JSON records that say which version of their shape they have."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from meldrin.core.errors import Code, MeldrinError

Record = dict[str, Any]
T = TypeVar("T")


@dataclass(frozen=True)
class Shape(Generic[T]):
    """The stored form of one kind of value, and how older forms become today's.

    name: what the value is called in a sentence.
    code: the reason given where a record cannot be read.
    version: of today's form; it stands as ``v`` in every record.
    write, read: from a value to its fields and back; `read` may raise TypeError or ValueError.
    upgrades: by version, how fields of that version become those of the next.
    """

    name: str
    code: Code
    version: int
    write: Callable[[T], Record]
    read: Callable[[Record], T]
    upgrades: Mapping[int, Callable[[Record], Record]]

    def record(self, value: T) -> Record:
        """Return the record of a value, in today's form."""
        return {"v": self.version, **self.write(value)}

    def value(self, record: Mapping[str, Any]) -> T:
        """Return the value that a record of any version holds.

        Raises:
            MeldrinError: with `code`, for a record that no version could have written.
        """
        try:
            return self.read(self.upgraded(record))
        except (TypeError, ValueError, KeyError) as error:
            raise MeldrinError(
                self.code, f"This {self.name} has other parts than it should have."
            ) from error

    def upgraded(self, record: Mapping[str, Any]) -> Record:
        """Return the fields of a record of any version in today's form, without ``v``.

        Raises:
            MeldrinError: with `code`, for a version this program does not read.
        """
        fields = dict(record)
        version = fields.pop("v", None)
        if version != self.version and version not in self.upgrades:
            raise MeldrinError(
                self.code,
                f"This {self.name} was written by another version ({version!r}); this program reads"
                f" {min(self.upgrades, default=self.version)} to {self.version}.",
            )
        for passed in range(version, self.version):
            fields = self.upgrades[passed](fields)
        return fields
