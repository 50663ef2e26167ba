"""Why a service will not do what it was asked to, and how the API says so."""

from __future__ import annotations

from typing import Any

from ninja import Schema


class Refusal(Exception):
    """A sentence for the person, the HTTP status, and what else the answer should hold."""

    status = 400

    def __init__(self, says: str, **more: Any) -> None:
        super().__init__(says)
        self.says = says
        self.more = more


class Missing(Refusal):
    """There is no such thing, or not for this person."""

    status = 404


class Conflict(Refusal):
    """Something newer stands in the way."""

    status = 409


class Problem(Schema):
    """What is wrong with a recipe, where, and the nearest value that would do."""

    path: str
    says: str
    nearest: Any = None


class Refused(Schema):
    """Why it was not done."""

    says: str
    problems: list[Problem] = []
