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
COUNTING_ALIKE = f"""
    CREATE OR REPLACE FUNCTION count_taken() RETURNS trigger LANGUAGE plpgsql AS $$
    BEGIN
      PERFORM pg_advisory_xact_lock(hashtextextended('taken/' || trial_id::text, 0))
        FROM (SELECT DISTINCT trial_id FROM fresh ORDER BY trial_id) AS trials;
      {COUNTED.format(asked=FRESH)};
      RETURN NULL;
    END $$;
"""  # noqa: S608 - made of the texts above alone
COUNTING = f"""
    {COUNTING_ALIKE}
    CREATE TRIGGER count_taken AFTER INSERT ON rounds_reading
      REFERENCING NEW TABLE AS fresh FOR EACH STATEMENT EXECUTE FUNCTION count_taken();
    {COUNTED.format(asked=EVERYTHING)};
"""
MANY = 200
"""So many readings in one statement are counted together, by one pass over what is there; fewer one by one, by the index."""
ONE_BY_ONE = f"""
    INSERT INTO rounds_taken (trial_id, checkpoint_id, sample_id, outcomes, last)
    SELECT asked.trial_id, asked.checkpoint_id, asked.sample_id, found.outcomes, found.last
    FROM ({FRESH}) AS asked CROSS JOIN LATERAL (
      SELECT count(DISTINCT r.outcome_id) FILTER (WHERE r.stands) AS outcomes, max(r.taken_at) FILTER (WHERE r.stands) AS last
      FROM (
        SELECT outcome_id, taken_at, kind <> 'withdrawn' AND repeat_id IS NULL
          AND NOT EXISTS (SELECT 1 FROM rounds_reading newer WHERE newer.supersedes_id = one.id) AS stands
        FROM rounds_reading one WHERE one.sample_id = asked.sample_id AND one.checkpoint_id = asked.checkpoint_id
      ) AS r
    ) AS found
    ORDER BY asked.checkpoint_id, asked.sample_id
    ON CONFLICT (checkpoint_id, sample_id) DO UPDATE SET outcomes = excluded.outcomes, last = excluded.last
"""  # noqa: S608 - made of the texts above alone
COUNTING_BY_SIZE = f"""
    CREATE OR REPLACE FUNCTION count_taken() RETURNS trigger LANGUAGE plpgsql AS $$
    DECLARE
      nested text := current_setting('enable_nestloop');
    BEGIN
      PERFORM pg_advisory_xact_lock(hashtextextended('taken/' || trial_id::text, 0))
        FROM (SELECT DISTINCT trial_id FROM fresh ORDER BY trial_id) AS trials;
      IF (SELECT count(*) FROM (SELECT 1 FROM fresh LIMIT {MANY}) AS several) < {MANY} THEN
        {ONE_BY_ONE};
      ELSE
        -- Planned anew, and without loops in loops: of a table that has just been filled the planner knows nothing.
        PERFORM set_config('enable_nestloop', 'off', true);
        EXECUTE $counted${COUNTED.format(asked=FRESH)}$counted$;
        PERFORM set_config('enable_nestloop', nested, true);
      END IF;
      RETURN NULL;
    END $$;
"""  # noqa: S608 - made of the texts above alone
WITHIN_TRIALS = f"""
    INSERT INTO rounds_taken (trial_id, checkpoint_id, sample_id, outcomes, last)
    SELECT asked.trial_id, asked.checkpoint_id, asked.sample_id, count(DISTINCT r.outcome_id), max(r.taken_at)
    FROM ({FRESH}) AS asked
    LEFT JOIN rounds_reading r ON r.checkpoint_id = asked.checkpoint_id AND r.sample_id = asked.sample_id
      AND r.trial_id = ANY($1) AND r.kind <> 'withdrawn' AND r.repeat_id IS NULL
      AND NOT EXISTS (SELECT 1 FROM rounds_reading newer WHERE newer.supersedes_id = r.id AND newer.trial_id = ANY($1))
    GROUP BY asked.trial_id, asked.checkpoint_id, asked.sample_id
    ORDER BY asked.checkpoint_id, asked.sample_id
    ON CONFLICT (checkpoint_id, sample_id) DO UPDATE SET outcomes = excluded.outcomes, last = excluded.last
"""  # noqa: S608 - made of the texts above alone
COUNTING_WITHIN_TRIALS = f"""
    CREATE OR REPLACE FUNCTION count_taken() RETURNS trigger LANGUAGE plpgsql AS $$
    DECLARE
      nested text := current_setting('enable_nestloop');
      trials uuid[] := ARRAY(SELECT DISTINCT trial_id FROM fresh ORDER BY trial_id);
    BEGIN
      PERFORM pg_advisory_xact_lock(hashtextextended('taken/' || one::text, 0)) FROM unnest(trials) AS one;
      IF (SELECT count(*) FROM (SELECT 1 FROM fresh LIMIT {MANY}) AS several) < {MANY} THEN
        {ONE_BY_ONE};
      ELSE
        -- Planned anew, and without loops in loops: of a table that has just been filled the planner knows nothing.  One pass over what
        -- these trials have, not over what everybody has.
        PERFORM set_config('enable_nestloop', 'off', true);
        EXECUTE $counted${WITHIN_TRIALS}$counted$ USING trials;
        PERFORM set_config('enable_nestloop', nested, true);
      END IF;
      RETURN NULL;
    END $$;
"""  # noqa: S608 - made of the texts above alone
NOT_COUNTING = "DROP TRIGGER count_taken ON rounds_reading; DROP FUNCTION count_taken();"
