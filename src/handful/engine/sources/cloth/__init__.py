"""Sheets of cloth: what hangs by its own weight, what only folds, and how either is seen."""
