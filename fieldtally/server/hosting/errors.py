"""Reports of errors to an address that takes them: what failed where, and nothing of whom it failed for."""

from __future__ import annotations

from typing import Any

import sentry_sdk

KEPT = (
    "event_id",
    "timestamp",
    "platform",
    "level",
    "logger",
    "release",
    "exception",
    "transaction",
    "modules",
    "contexts",
)


def without_people(event: Any, hint: Any) -> Any:
    """An event with what the program did, and without requests, people, words that failed and values of variables."""
    del hint
    kept = {name: event[name] for name in KEPT if name in event}
    for one in kept.get("exception", {}).get("values", []):
        # What an exception says may quote what somebody typed.
        one["value"] = ""
        for frame in one.get("stacktrace", {}).get("frames", []):
            frame.pop("vars", None)
    return kept


def report_errors(to: str) -> None:
    """Send what goes wrong to the address ``to``."""
    sentry_sdk.init(
        dsn=to,
        send_default_pii=False,
        include_local_variables=False,
        max_request_body_size="never",
        traces_sample_rate=0.0,
        before_send=without_people,
    )
