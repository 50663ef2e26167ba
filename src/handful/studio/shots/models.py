"""A shot, and what was saved of its recipe."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models

from handful.studio.recipes import RecipeField


class Shot(models.Model):
    """What a person opens: one recipe, at its newest revision."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="shots")
    name = models.CharField(max_length=80)
    recipe = RecipeField()
    revision = models.PositiveIntegerField(default=1)
    saves = models.PositiveIntegerField(
        default=1, help_text="How often it was saved, as a draft too."
    )
    draft = RecipeField(
        null=True, help_text="What was last saved on top of the revision, if it has problems."
    )
    origin = models.CharField(max_length=80, blank=True, help_text="The demo shot it began as.")
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)
    deleted = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-changed"]

    def __str__(self) -> str:
        return self.name


class Revision(models.Model):
    """A recipe as it was saved once. Revisions are never changed."""

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    recipe = RecipeField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["shot", "number"], name="one_revision_of_a_number")
        ]
        ordering = ["-number"]

    def __str__(self) -> str:
        return f"{self.shot}, revision {self.number}"
