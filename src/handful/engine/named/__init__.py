"""What a recipe names once and several layers share: sways, paths and cameras."""

from __future__ import annotations

from collections.abc import Mapping

from handful.engine.kinds import Kind
from handful.engine.named.camera import Camera, Pose
from handful.engine.named.path import Path, Vertex
from handful.engine.named.sway import Pin, Sway

NAMED: Mapping[str, type[Kind]] = {"sways": Sway, "paths": Path, "cameras": Camera}
"""The kinds of what has a name, each by a recipe's list of them."""

__all__ = ["NAMED", "Camera", "Path", "Pin", "Pose", "Sway", "Vertex"]
