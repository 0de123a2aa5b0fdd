"""Write the OpenAPI documents from which the front end's types are generated: ``python -m fieldtally.server.openapi DIR``."""

import json
import os
import sys
from pathlib import Path
from typing import Any


def as_sent(schema: Any) -> Any:
    """``schema`` as the front end meets it: what has a default is always sent, and fixed-length lists are lists."""
    if isinstance(schema, list):
        return [as_sent(one) for one in schema]
    if not isinstance(schema, dict):
        return schema
    plain = {name: as_sent(one) for name, one in schema.items()}
    if plain.get("type") == "object" and isinstance(plain.get("properties"), dict):
        plain["required"] = list(plain["properties"])
    if "prefixItems" in plain:
        plain["items"] = plain.pop("prefixItems")[0]
    return plain


def main(folder: Path) -> None:
    """``server.json`` (ours) and ``accounts.yaml`` (the account library's own) in ``folder``."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")
    import django

    django.setup()
    import allauth.headless.spec

    from fieldtally.server.api import api

    (folder / "server.json").write_text(
        json.dumps(as_sent(json.loads(json.dumps(api.get_openapi_schema(), default=str))), indent=1)
    )
    shipped = Path(allauth.headless.spec.__file__).parent / "doc"
    for name, ours in (("openapi.yaml", "accounts.yaml"), ("description.md", "description.md")):
        (folder / ours).write_text((shipped / name).read_text())


if __name__ == "__main__":
    main(Path(sys.argv[1]))
