"""What a new shot begins with."""

from __future__ import annotations

from typing import Any


def first_recipe(name: str) -> dict[str, Any]:
    """One strike between two points, near what a first shot needs."""
    return {
        "version": 3,
        "name": name,
        "canvas": {"width": 1920, "height": 1080, "rate": 25, "first": 1001, "last": 1050},
        "seed": 1,
        "cover": "from light",
        "points": [{"name": "from", "at": [640, 90]}, {"name": "to", "at": [1240, 930]}],
        "layers": [
            {
                "id": "bolt",
                "name": "Bolt",
                "source": {
                    "kind": "bolt",
                    "start": {"moves": "follow", "point": "from"},
                    "end": {"moves": "follow", "point": "to"},
                },
                "steps": [{"kind": "glow", "id": "glow"}],
                "blend": "add",
            }
        ],
    }
