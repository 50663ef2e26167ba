"""Random numbers and noise: pure functions of a key."""
