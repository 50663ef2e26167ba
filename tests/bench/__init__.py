"""The table of measurements."""
