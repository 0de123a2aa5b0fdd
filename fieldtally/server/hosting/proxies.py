"""Who asks, where proxies stand between: what our own proxies say is believed, and nothing that a visitor writes into the same headers."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable
from contextvars import ContextVar

from django.conf import settings
from django.http import HttpRequest, HttpResponse

VISITOR: ContextVar[str] = ContextVar("visitor", default="")
"""Whose request is being answered: their address of the network."""
FOR, PROTO = "HTTP_X_FORWARDED_FOR", "HTTP_X_FORWARDED_PROTO"


def visitor_of(said: str, peer: str, proxies: int) -> str:
    """The address of whoever asks: ``said`` is the header (each proxy adds whom it heard from at its end), ``peer`` who spoke to us, and
    the last ``proxies`` hops are ours.

    >>> visitor_of("203.0.113.9, 198.51.100.7", "10.0.0.1", 1)
    '198.51.100.7'
    >>> visitor_of("203.0.113.9, 198.51.100.7", "10.0.0.1", 0)
    '10.0.0.1'
    """
    hops = [one.strip() for one in said.split(",") if one.strip()]
    if proxies == 0 or len(hops) < proxies:
        return peer
    try:
        return str(ipaddress.ip_address(hops[-proxies]))
    except ValueError:
        return peer


def visitors_address(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: from here on ``REMOTE_ADDR`` is the visitor's, and headers that no proxy of ours vouches for are gone."""

    def handle(request: HttpRequest) -> HttpResponse:
        meta, proxies = request.META, settings.PLACE.proxies
        if proxies:
            # A proxy that speaks over a socket file has no address of its own.
            meta["REMOTE_ADDR"] = visitor_of(meta.get(FOR, ""), meta.get("REMOTE_ADDR") or "127.0.0.1", proxies)
            meta[PROTO] = meta.get(PROTO, "").split(",")[-1].strip()
        else:
            meta.pop(PROTO, None)
        meta.pop(FOR, None)
        before = VISITOR.set(meta.get("REMOTE_ADDR", ""))
        try:
            return get_response(request)
        finally:
            VISITOR.reset(before)

    return handle
