"""The API told on a page of its own: every door with what it takes and answers, from the same OpenAPI; no scripts, nothing fetched."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django.views.decorators.http import require_safe

from fieldtally.server.api import api
from fieldtally.server.printing import screen_faces

METHODS = ("get", "post", "put", "delete")


@require_safe
def reference(request: HttpRequest) -> HttpResponse:
    """The page."""
    schema = api.get_openapi_schema()
    stages: dict[str, list[dict[str, Any]]] = defaultdict(list)
    for path, methods in schema["paths"].items():
        for method in METHODS:
            if method in methods:
                stages[(methods[method].get("tags") or ["other"])[0]].append(
                    _door(path, method, methods[method], schema)
                )
    page = render_to_string("reference.html", {"stages": dict(stages), "faces": screen_faces()})
    answer = HttpResponse(page)
    answer._csp_update = {"style-src": ["'unsafe-inline'"]}  # type: ignore[attr-defined]
    return answer


def _door(path: str, method: str, told: dict[str, Any], schema: dict[str, Any]) -> dict[str, Any]:
    body = told.get("requestBody", {}).get("content", {})
    return {
        "path": path,
        "method": method.upper(),
        "says": told.get("description") or told.get("summary", ""),
        "takes": [
            f"{one['name']} ({one['in']}, {_kind(one.get('schema', {}))}{'' if one.get('required') else ', optional'})"
            for one in told.get("parameters", [])
        ],
        "body": next(iter(_fields(content.get("schema", {}), schema) for content in body.values()), []),
        "answers": sorted(str(code) for code in told.get("responses", {})),
    }


def _kind(schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        return str(schema["$ref"]).rsplit("/", 1)[1]
    if "anyOf" in schema:
        return " or ".join(_kind(one) for one in schema["anyOf"])
    if schema.get("type") == "array":
        return f"list of {_kind(schema.get('items', {}))}"
    if "enum" in schema:
        return " | ".join(map(str, schema["enum"]))
    return str(schema.get("format") or schema.get("type") or "anything")


def _fields(body: dict[str, Any], schema: dict[str, Any]) -> list[str]:
    if "$ref" in body:
        body = schema["components"]["schemas"][str(body["$ref"]).rsplit("/", 1)[1]]
    needed = body.get("required", [])
    return [
        f"{name} ({_kind(told)}{'' if name in needed else ', optional'})"
        for name, told in body.get("properties", {}).items()
    ]
