"""What random numbers are for: each use of one key has a number of its own, so that none meet."""

from __future__ import annotations

SIDEWAYS, ALONG, WHEN, BRANCH = 1, 2, 3, 11
"""Of a channel: how far a bend goes aside, where it is, when it boils, and all of a branch."""

SHORT_OF, ASTRAY, BRANCH_ASTRAY, DIM, WHEN_DIM, ABOUT_EDGE, MEETING = 21, 22, 24, 23, 25, 26, 28
"""Of a discharge: a free end and its direction, a branch's direction, dips of light and when they
boil, places about a matte's edge (one for each axis), and where two discharges meet."""

WHEN_STRUCK, HOW_BRIGHT = 31, 32
"""Of a flash: when its strokes come, and how bright they are."""

WHICH_BOND, SHAKEN, BENT = 41, 42, 43
"""Of a breakdown: which bond breaks, how its sites are shaken, and how its ways bend."""

LOOSE, WHERE_ROUND, SPREAD_OF_PACE = 51, 52, 53
"""Of strands: how loose they are, where they begin round the middle, and how fast they turn."""

GHOST_PLACE, GHOST_SIZE, GHOST_TINT = 61, 62, 63
SPOT_ACROSS, SPOT_DOWN, SPOT_SIZE, SPOT_SHINE = 64, 65, 66, 67
"""Of a lens: its ghosts, and the dirt on it."""

WHEN_BORN, WHERE, WHERE_ELSE, WHITHER, HOW_FAST, HOW_LONG = 71, 72, 73, 74, 75, 76
HOW_LARGE, HOW_LIT, HOW_DEEP, PHASE, SIDE, WHITHER_ELSE, HOW_FAR = 77, 78, 79, 80, 81, 82, 83
WHETHER_IT_STICKS = 84
"""Of a particle: when and where it is born, how it is thrown, how long it lives, and what it is like."""

HOW_A_WAVE_BEGINS = 91
"""Of water: how strong each wave is, and where it stands at first."""
