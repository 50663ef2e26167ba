"""How layers mix into one picture, and what its cover becomes at the output."""

from handful.engine.mix.bend import (
    Bending,
    Seen,
    bent,
    bent_after,
    bent_plate,
    beyond,
    blur_of,
    folds,
)
from handful.engine.mix.blend import BlendSpace, Part, add_blend, blends, mixed
from handful.engine.mix.cover import COVER_RULES, with_cover
from handful.engine.mix.limit import averaged, joined, limited

__all__ = [
    "COVER_RULES",
    "Bending",
    "BlendSpace",
    "Part",
    "Seen",
    "add_blend",
    "averaged",
    "bent",
    "bent_after",
    "bent_plate",
    "beyond",
    "blends",
    "blur_of",
    "folds",
    "joined",
    "limited",
    "mixed",
    "with_cover",
]
