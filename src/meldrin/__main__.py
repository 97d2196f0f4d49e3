"""`python -m meldrin`: the command."""

import sys

from meldrin.commands import main

sys.exit(main())
