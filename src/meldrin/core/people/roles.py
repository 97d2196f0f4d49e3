"""What somebody is in a studio."""

from typing import Literal

# An owner does all that a teacher does, and sees to teachers and to the studio itself.
Role = Literal["owner", "teacher", "pupil"]
