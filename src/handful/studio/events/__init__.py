"""Events: what happened is told at once to the pages of whom it concerns."""
