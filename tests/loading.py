"""Modules that are no part of a package: tools beside the documents, and files that a test has written."""

from __future__ import annotations

import importlib.util
from pathlib import Path
from types import ModuleType


def module_at(path: Path) -> ModuleType:
    """The module that a file holds, loaded anew."""
    spec = importlib.util.spec_from_file_location(path.stem, path)
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module
