"""Moments as the database tells them: where there are hundreds of thousands, text and numbers are read ten times as fast as timestamps."""

from __future__ import annotations

from django.db.models import FloatField, Func, TextField


class Epoch(Func):
    """A moment in seconds since 1970, to the microsecond."""

    template = "extract(epoch FROM %(expressions)s)::float8"
    output_field = FloatField()


class Iso(Func):
    """A moment as :func:`~fieldtally.core.blinding.chain.moment` writes it: UTC, ISO 8601, microseconds only where there are any."""

    template = (
        """replace(to_char(%(expressions)s AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US'), '.000000', '') || 'Z'"""
    )
    output_field = TextField()
