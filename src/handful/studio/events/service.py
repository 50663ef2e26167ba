"""Telling what happened. It is heard when the transaction that it is part of ends well, and only then."""

from __future__ import annotations

import json
from typing import Literal
from uuid import UUID

from django.db import connection

CHANNEL = "handful"
"""Of PostgreSQL's NOTIFY, on which web servers listen."""

What = Literal["shot", "render"]


def tell(person: int, what: What, which: UUID, at: int = 0) -> None:
    """Tell a person's pages that something of theirs has changed, and how often it has by now, if that is counted:
    they ask for the rest."""
    told = json.dumps({"person": person, "what": what, "id": str(which), "at": at})
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, told])
