"""Open water out to its horizon, and all that is seen of it."""
