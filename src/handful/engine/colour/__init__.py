"""Transfer functions and primaries."""
