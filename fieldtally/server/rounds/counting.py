"""Keeping count of what is taken (:class:`.models.Taken`): the database does so itself, whoever writes a reading.

A trigger counts the samples and checkpoints anew that were just written to.  Two who write to one trial count one after the other, so that
neither misses what the other wrote.
"""

from __future__ import annotations

COUNTED = """
    INSERT INTO rounds_taken (trial_id, checkpoint_id, sample_id, outcomes, last)
    SELECT asked.trial_id, asked.checkpoint_id, asked.sample_id, count(DISTINCT r.outcome_id), max(r.taken_at)
    FROM ({asked}) AS asked
    LEFT JOIN rounds_reading r ON r.checkpoint_id = asked.checkpoint_id AND r.sample_id = asked.sample_id
      AND r.kind <> 'withdrawn' AND r.repeat_id IS NULL
      AND NOT EXISTS (SELECT 1 FROM rounds_reading newer WHERE newer.supersedes_id = r.id)
    GROUP BY asked.trial_id, asked.checkpoint_id, asked.sample_id
    ORDER BY asked.checkpoint_id, asked.sample_id
    ON CONFLICT (checkpoint_id, sample_id) DO UPDATE SET outcomes = excluded.outcomes, last = excluded.last
"""
FRESH = "SELECT DISTINCT trial_id, checkpoint_id, sample_id FROM fresh WHERE repeat_id IS NULL"
EVERYTHING = "SELECT DISTINCT trial_id, checkpoint_id, sample_id FROM rounds_reading WHERE repeat_id IS NULL"
COUNTING = f"""
    CREATE FUNCTION count_taken() RETURNS trigger LANGUAGE plpgsql AS $$
    BEGIN
      PERFORM pg_advisory_xact_lock(hashtextextended('taken/' || trial_id::text, 0))
        FROM (SELECT DISTINCT trial_id FROM fresh ORDER BY trial_id) AS trials;
      {COUNTED.format(asked=FRESH)};
      RETURN NULL;
    END $$;
    CREATE TRIGGER count_taken AFTER INSERT ON rounds_reading
      REFERENCING NEW TABLE AS fresh FOR EACH STATEMENT EXECUTE FUNCTION count_taken();
    {COUNTED.format(asked=EVERYTHING)};
"""  # noqa: S608 - made of the texts above alone
NOT_COUNTING = "DROP TRIGGER count_taken ON rounds_reading; DROP FUNCTION count_taken();"
