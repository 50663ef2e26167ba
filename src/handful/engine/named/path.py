"""Path: a line or an outline drawn through vertices, straight or curved."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from handful.engine.kinds import Kind, Piece, setting
from handful.engine.values import Point

_FLAT = 0.1
"""px by which straight pieces may miss a curve."""

_MOST_PIECES = 200


class Vertex(Piece):
    """A corner or a smooth turn of a path."""

    says = "{at}"

    at: Point = setting([960, 540], unit="px", help="Where the path passes.")
    arriving: Point = setting(
        [0, 0], unit="px", help="Handle of the curve that comes in, from the vertex; 0, 0 is none."
    )
    leaving: Point = setting(
        [0, 0], unit="px", help="Handle of the curve that goes out, from the vertex; 0, 0 is none."
    )


class Path(Kind):
    """A line or an outline through vertices, joined by cubic Bezier curves or straight lines."""

    family = "path"
    by_hand = True
    says = "Passes {vertices}, closed {closed}."

    vertices: tuple[Vertex, ...] = setting(
        [{"at": [760, 340]}, {"at": [1160, 340]}, {"at": [1160, 740]}, {"at": [760, 740]}],
        least=2,
        most=2000,
        help="What it passes through, in order.",
    )
    closed: bool = setting(True, help="Whether its end joins its start.")

    def line(self, scale: float) -> NDArray[np.float64]:
        """The path as straight pieces `(N, 2)` in px of the scaled canvas; its curves within 0.1 px."""
        count = len(self.vertices)
        joints = [(i, (i + 1) % count) for i in range(count if self.closed else count - 1)]
        places = [_scaled(self.vertices[0].at, scale)]
        for i, j in joints:
            places.extend(_curve(self.vertices[i], self.vertices[j], scale))
        return np.array(places, np.float64)


def _scaled(point: Point, scale: float) -> tuple[float, float]:
    return point.x * scale, point.y * scale


def _curve(first: Vertex, second: Vertex, scale: float) -> list[tuple[float, float]]:
    """Places after the first vertex, up to the second."""
    if first.leaving == (0, 0) and second.arriving == (0, 0):
        return [_scaled(second.at, scale)]
    ax, ay = _scaled(first.at, scale)
    dx, dy = _scaled(second.at, scale)
    bx, by = ax + first.leaving.x * scale, ay + first.leaving.y * scale
    cx, cy = dx + second.arriving.x * scale, dy + second.arriving.y * scale
    bend = max(
        math.hypot(ax - 2 * bx + cx, ay - 2 * by + cy),
        math.hypot(bx - 2 * cx + dx, by - 2 * cy + dy),
    )
    pieces = min(_MOST_PIECES, max(1, math.ceil(math.sqrt(0.75 * bend / _FLAT))))
    places = []
    for piece in range(1, pieces + 1):
        t = piece / pieces
        s = 1 - t
        places.append(
            (
                s * s * s * ax + 3 * s * s * t * bx + 3 * s * t * t * cx + t * t * t * dx,
                s * s * s * ay + 3 * s * s * t * by + 3 * s * t * t * cy + t * t * t * dy,
            )
        )
    return places
