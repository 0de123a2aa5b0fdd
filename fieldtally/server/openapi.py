"""Write the OpenAPI documents from which the front end's types are generated: ``python -m fieldtally.server.openapi DIR``."""

import json
import os
import sys
from pathlib import Path


def main(folder: Path) -> None:
    """``server.json`` (ours) and ``accounts.yaml`` (the account library's own) in ``folder``."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")
    import django

    django.setup()
    import allauth.headless.spec

    from fieldtally.server.api import api

    (folder / "server.json").write_text(json.dumps(api.get_openapi_schema(), indent=1, default=str))
    shipped = Path(allauth.headless.spec.__file__).parent / "doc"
    for name, ours in (("openapi.yaml", "accounts.yaml"), ("description.md", "description.md")):
        (folder / ours).write_text((shipped / name).read_text())


if __name__ == "__main__":
    main(Path(sys.argv[1]))
