"""Recipes in the database: whatever version they were written in, they are read as the newest."""

from __future__ import annotations

from typing import Any

from django.db import models

from handful.engine.recipe import upgraded


class RecipeField(models.JSONField):
    """A recipe as JSON."""

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """The recipe in its newest version."""
        read = super().from_db_value(value, expression, connection)
        return upgraded(read) if isinstance(read, dict) else read
