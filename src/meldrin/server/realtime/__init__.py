"""One line between a tab and an attempt, whatever is practised, and the journal that keeps it."""
