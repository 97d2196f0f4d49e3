"""People: what they are called here, what brings them back to their work, and what they may do."""

from meldrin.core.people.class_list import MOST_PUPILS_OF_A_LIST, Listed, class_list
from meldrin.core.people.names import (
    MOST_LETTERS,
    MOST_OF_A_TITLE,
    key_of_name,
    name_said,
    title_said,
)
from meldrin.core.people.pictures import (
    PICTURES_OF_A_PASSPHRASE,
    PictureGroup,
    passphrase_said,
    picture_groups,
    picture_words,
    pictures_drawn,
)
from meldrin.core.people.roles import Role
from meldrin.core.people.slips import (
    code_drawn,
    code_said,
    is_join_code,
    join_code_drawn,
    join_code_said,
)
