"""How layers mix into one picture, and what its cover becomes at the output."""

from handful.engine.mix.blend import BLENDS, mix_into
from handful.engine.mix.cover import COVER_RULES, with_cover

__all__ = ["BLENDS", "COVER_RULES", "mix_into", "with_cover"]
