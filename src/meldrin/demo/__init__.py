"""The demo scenario: simulated learners play the real engine."""
