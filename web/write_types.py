"""Writes what the front end's types are made from, and makes them.

`./handful python web/write_types.py`; tests hold that the descriptions are current.
"""

from __future__ import annotations

import json
import os
import subprocess
from pathlib import Path
from typing import Any

import django

from handful.engine.recipe import recipe_outline

HERE = Path(__file__).parent
API = HERE / "src" / "api" / "openapi.json"
RECIPE = HERE / "src" / "recipe" / "outline.json"


def outline() -> dict[str, Any]:
    """A recipe's parts as the components of an OpenAPI description."""
    text = json.dumps(recipe_outline()).replace('"#/$defs/', '"#/components/schemas/')
    return {
        "openapi": "3.1.0",
        "info": {"title": "The recipe, with nodes of any kind", "version": "2"},
        "paths": {},
        "components": {"schemas": json.loads(text)},
    }


def main() -> None:
    """Write both descriptions, then the types."""
    os.environ["DJANGO_SETTINGS_MODULE"] = "handful.studio.settings"
    os.environ.setdefault("HANDFUL_DATABASE_URL", "postgresql:///none")
    django.setup()
    from handful.studio.api import api  # only once its settings are there

    for path, description in ((API, api.get_openapi_schema()), (RECIPE, outline())):
        path.write_text(json.dumps(description, indent=2, ensure_ascii=False) + "\n")
    subprocess.run(["npm", "run", "--silent", "api"], cwd=HERE, check=True)


if __name__ == "__main__":
    main()
