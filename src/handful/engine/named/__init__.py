"""What a recipe names once and several layers share: sways and paths."""

from handful.engine.named.path import Path, Vertex
from handful.engine.named.sway import Pin, Sway

__all__ = ["Path", "Pin", "Sway", "Vertex"]
