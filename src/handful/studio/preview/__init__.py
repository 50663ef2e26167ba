"""Pictures for the bench, at once: unsaved recipes, small, newest first."""
