"""Django's commands as this place is set up: what ./manage runs.  ``migrate`` makes the database ready as its owner."""

from __future__ import annotations

import os
import sys

from fieldtally.server.hosting.place import Wrong, place


def main(asked: list[str]) -> None:
    """Run what was asked for; settings that are wrong are told as sentences."""
    try:
        place()
    except Wrong as wrong:
        sys.exit(str(wrong))
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")
    if asked == ["migrate"]:
        from fieldtally.server.ready import make_ready

        make_ready()
        return
    from django.core.management import execute_from_command_line

    execute_from_command_line(["./manage", *asked])


if __name__ == "__main__":
    main(sys.argv[1:])
