"""A render and its frames."""

from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from handful.studio.recipes import RecipeField


class Render(models.Model):
    """One order to render, with its own copy of the recipe, which never changes."""

    class State(models.TextChoices):
        """How far it is."""

        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    shot = models.ForeignKey("shots.Shot", models.CASCADE, related_name="renders")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="renders")
    name = models.CharField(max_length=80)
    recipe = RecipeField()
    revision = models.PositiveIntegerField()
    first = models.IntegerField()
    last = models.IntegerField()
    scale = models.FloatField()
    format = models.CharField(max_length=20)
    state = models.CharField(max_length=10, choices=State, default=State.QUEUED)
    reason = models.TextField(blank=True)
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-created"]

    def __str__(self) -> str:
        return f"{self.name} {self.first}-{self.last}"

    @property
    def folder(self) -> Path:
        """Where its files go."""
        return Path(settings.RENDERS_ROOT) / str(self.id)


class RenderFrame(models.Model):
    """A frame that is written; there is one row for each, made after its file has its name."""

    render = models.ForeignKey(Render, models.CASCADE, related_name="frames")
    frame = models.IntegerField()
    file = models.CharField(max_length=120)
    size = models.PositiveBigIntegerField()
    seconds = models.FloatField(help_text="Seconds that computing and writing it took.")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["render", "frame"], name="one_row_for_each_frame")
        ]
        ordering = ["frame"]

    def __str__(self) -> str:
        return self.file
