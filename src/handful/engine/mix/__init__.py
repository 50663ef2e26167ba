"""How layers mix into one picture, and what its cover becomes at the output."""

from handful.engine.mix.blend import BLENDS, Part, mixed
from handful.engine.mix.cover import COVER_RULES, with_cover

__all__ = ["BLENDS", "COVER_RULES", "Part", "mixed", "with_cover"]
