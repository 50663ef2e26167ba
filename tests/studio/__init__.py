"""The studio: its API, its rules and its worker."""
