"""The first minutes of a learner in Debian's Firefox and in WebKitGTK, as their users have them."""
