"""A plate of a shot: a sequence of stills in the media folder."""

from __future__ import annotations

from django.db import models


class Plate(models.Model):
    """Files `FOLDER/NAME.FFFF.jpg` from `first` to `last`."""

    shot = models.ForeignKey("shots.Shot", models.CASCADE, related_name="plates")
    name = models.CharField(max_length=80)
    folder = models.CharField(max_length=200)
    first = models.IntegerField()
    last = models.IntegerField()

    def __str__(self) -> str:
        return self.name
