"""People: what they are called here, and what brings them back to their work."""

from meldrin.core.people.names import MOST_LETTERS, key_of_name, name_said
from meldrin.core.people.pictures import (
    PICTURES_OF_A_PASSPHRASE,
    PictureGroup,
    passphrase_said,
    picture_groups,
    pictures_drawn,
)
from meldrin.core.people.slips import code_drawn, code_said
