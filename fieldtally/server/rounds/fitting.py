"""A reading fits its round: the database refuses one whose trial, checkpoint or scorer are not those of its round, or whose sample, outcome
or second code are of another trial.  Asked once for each statement, however many readings it writes: a key from each column
to another table would be asked for each reading, and took half of the time of storing a hundred thousand.  Rounds, second codes, samples,
outcomes and checkpoints are append-only, so that nothing that a reading names can go."""

from __future__ import annotations

FITTING = """
    CREATE FUNCTION readings_fit() RETURNS trigger LANGUAGE plpgsql AS $$
    BEGIN
      -- What comes once is looked up once, however many readings have it.
      IF EXISTS (
        SELECT 1 FROM (SELECT DISTINCT round_id, trial_id, checkpoint_id, scorer_id FROM fresh) f
        LEFT JOIN rounds_round r ON r.id = f.round_id AND r.trial_id = f.trial_id
          AND r.checkpoint_id = f.checkpoint_id AND r.scorer_id = f.scorer_id
        WHERE r.id IS NULL
      ) OR EXISTS (
        SELECT 1 FROM (SELECT DISTINCT sample_id, trial_id FROM fresh) f
        LEFT JOIN plan_sample s ON s.id = f.sample_id AND s.trial_id = f.trial_id WHERE s.id IS NULL
      ) OR EXISTS (
        SELECT 1 FROM (SELECT DISTINCT outcome_id, trial_id FROM fresh) f
        LEFT JOIN plan_outcome o ON o.id = f.outcome_id AND o.trial_id = f.trial_id WHERE o.id IS NULL
      ) OR EXISTS (
        SELECT 1 FROM (SELECT DISTINCT repeat_id, trial_id FROM fresh WHERE repeat_id IS NOT NULL) f
        LEFT JOIN rounds_repeat t ON t.id = f.repeat_id AND t.trial_id = f.trial_id WHERE t.id IS NULL
      ) THEN
        RAISE EXCEPTION 'a reading belongs to the trial, checkpoint and scorer of its round' USING ERRCODE = 'foreign_key_violation';
      END IF;
      RETURN NULL;
    END $$;
    CREATE TRIGGER readings_fit AFTER INSERT ON rounds_reading
      REFERENCING NEW TABLE AS fresh FOR EACH STATEMENT EXECUTE FUNCTION readings_fit();
"""
NOT_FITTING = "DROP TRIGGER readings_fit ON rounds_reading; DROP FUNCTION readings_fit();"
