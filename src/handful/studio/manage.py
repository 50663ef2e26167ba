"""Django's management commands: `python -m handful.studio.manage COMMAND`."""

from __future__ import annotations

import os
import sys

from django.core.management import execute_from_command_line


def main() -> None:
    """Run the command named on the command line."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "handful.studio.settings")
    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()
