"""Recipes in the database: whatever version they were written in, they are read as the newest."""

from __future__ import annotations

from typing import Any

from django.db import models
from django.db.models.fields.json import KeyTransform

from handful.engine.recipe import upgraded


class RecipeField(models.JSONField):
    """A recipe as JSON."""

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """The recipe in its newest version; a part of one as it is written."""
        read = super().from_db_value(value, expression, connection)
        is_whole = isinstance(read, dict) and not isinstance(expression, KeyTransform)
        return upgraded(read) if is_whole else read
