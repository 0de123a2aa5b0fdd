"""Keeping count of what is taken (:class:`.models.Taken`), in the transaction that writes readings."""

from __future__ import annotations

from collections.abc import Collection
from uuid import UUID

from django.db import connection

COUNTED = """
    INSERT INTO rounds_taken (trial_id, checkpoint_id, sample_id, outcomes, last)
    SELECT asked.trial_id, asked.checkpoint_id, asked.sample_id, count(DISTINCT r.outcome_id), max(r.taken_at)
    FROM ({asked}) AS asked
    LEFT JOIN rounds_reading r ON r.checkpoint_id = asked.checkpoint_id AND r.sample_id = asked.sample_id
      AND r.kind <> 'withdrawn' AND r.repeat_id IS NULL
      AND NOT EXISTS (SELECT 1 FROM rounds_reading newer WHERE newer.supersedes_id = r.id)
    GROUP BY asked.trial_id, asked.checkpoint_id, asked.sample_id
    ON CONFLICT (checkpoint_id, sample_id) DO UPDATE SET outcomes = excluded.outcomes, last = excluded.last
"""
OF_SOME = "SELECT %s::uuid AS trial_id, * FROM unnest(%s::bigint[], %s::uuid[]) AS places (checkpoint_id, sample_id)"
OF_ALL = (
    "SELECT DISTINCT trial_id, checkpoint_id, sample_id FROM rounds_reading WHERE trial_id = %s AND repeat_id IS NULL"
)


def count_again(trial: UUID, places: Collection[tuple[int, UUID]]) -> None:
    """Count anew what is taken at ``places`` (checkpoint, sample).

    Whoever calls holds the chain of the trial, so that two who write to one sample count one after the other."""
    if not places:
        return
    ordered = sorted(places)
    with connection.cursor() as cursor:
        checkpoints, samples = [at for at, _ in ordered], [sample for _, sample in ordered]
        cursor.execute(COUNTED.format(asked=OF_SOME), [trial, checkpoints, samples])


def count_all(trial: UUID) -> None:
    """Count all of a trial: one that was imported."""
    with connection.cursor() as cursor:
        cursor.execute(COUNTED.format(asked=OF_ALL), [trial])
