"""One way by which rows of a trial may go: a function that belongs to the owner of the database and checks what it is asked.

It takes trials of which ``person`` is a lead and in which nobody else has, or ever had, a part: not one reading, photo, note or decision is
another person's.  (Names that came in with a pack are nobody's.)  It deletes them with all they hold.
"""

from django.db import migrations

HELD: tuple[tuple[str, str, list[str]], ...] = (
    ("people_chainentry", "trial_id = ANY (leaving)", []),
    (
        "panels_judgement",
        "serving_id IN (SELECT id FROM panels_serving WHERE assessor_id IN (SELECT id FROM panels_assessor WHERE panel_id IN (SELECT id FROM panels_panel WHERE trial_id = ANY (leaving))))",
        [],
    ),
    (
        "panels_serving",
        "assessor_id IN (SELECT id FROM panels_assessor WHERE panel_id IN (SELECT id FROM panels_panel WHERE trial_id = ANY (leaving)))",
        [],
    ),
    ("panels_assessor", "panel_id IN (SELECT id FROM panels_panel WHERE trial_id = ANY (leaving))", []),
    ("panels_material", "panel_id IN (SELECT id FROM panels_panel WHERE trial_id = ANY (leaving))", []),
    ("panels_panel", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_gaugedreading", "gauging_id IN (SELECT id FROM rounds_gauging WHERE trial_id = ANY (leaving))", []),
    ("rounds_gaugerun", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_gauging", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_gaugerecipe", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_traininganswer", "set_id IN (SELECT id FROM rounds_trainingset WHERE trial_id = ANY (leaving))", []),
    ("rounds_trainingset", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_readiness", "trial_id = ANY (leaving)", ["by_id"]),
    (
        "rounds_calibrationgrade",
        "calibration_id IN (SELECT id FROM rounds_calibration WHERE trial_id = ANY (leaving))",
        ["scorer_id"],
    ),
    ("rounds_calibration", "trial_id = ANY (leaving)", ["begun_by_id"]),
    ("rounds_photofile", "photo_id IN (SELECT id FROM rounds_photo WHERE trial_id = ANY (leaving))", []),
    ("rounds_photo", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_reading", "trial_id = ANY (leaving)", ["scorer_id"]),
    ("rounds_repeat", "trial_id = ANY (leaving)", []),
    ("rounds_round", "trial_id = ANY (leaving)", ["scorer_id"]),
    ("rounds_guess", "trial_id = ANY (leaving)", ["scorer_id"]),
    ("rounds_deviation", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_condition", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_lognote", "trial_id = ANY (leaving)", ["by_id"]),
    ("rounds_reminded", "trial_id = ANY (leaving)", ["user_id"]),
    ("verdict_interimlook", "trial_id = ANY (leaving)", ["by_id"]),
    ("verdict_keyopening", "trial_id = ANY (leaving)", ["by_id"]),
    ("prepare_keylook", "trial_id = ANY (leaving)", ["by_id"]),
    ("prepare_heldtick", "trial_id = ANY (leaving)", ["by_id"]),
    ("prepare_cycle", "trial_id = ANY (leaving)", ["by_id"]),
    ("prepare_pack", "trial_id = ANY (leaving)", ["by_id"]),
    ("prepare_mixtick", "trial_id = ANY (leaving)", ["by_id"]),
    ("prepare_application", "trial_id = ANY (leaving)", ["by_id"]),
    ("prepare_exposure", "sample_id IN (SELECT id FROM plan_sample WHERE trial_id = ANY (leaving))", ["by_id"]),
    ("plan_uncovered", "shuffle_id IN (SELECT trial_id FROM plan_shuffle WHERE trial_id = ANY (leaving))", ["by_id"]),
    ("plan_shuffle", "trial_id = ANY (leaving)", ["by_id"]),
    ("plan_keyentry", "sample_id IN (SELECT id FROM plan_sample WHERE trial_id = ANY (leaving))", []),
    ("plan_sample", "trial_id = ANY (leaving)", []),
    ("plan_prediction", "trial_id = ANY (leaving)", ["by_id"]),
    ("plan_amendment", "trial_id = ANY (leaving)", ["by_id"]),
    ("plan_sealedplan", "trial_id = ANY (leaving)", ["by_id"]),
    ("plan_outcome", "trial_id = ANY (leaving)", []),
    ("plan_checkpoint", "trial_id = ANY (leaving)", []),
    ("plan_draft", "trial_id = ANY (leaving)", ["saved_by_id"]),
    ("share_report", "trial_id = ANY (leaving)", ["published_by_id"]),
    ("share_readerprediction", "trial_id = ANY (leaving)", []),
    ("people_accesstoken", "trial_id = ANY (leaving)", ["by_id"]),
    ("people_invitation", "trial_id = ANY (leaving)", ["invited_by_id"]),
    ("people_membership", "trial_id = ANY (leaving)", ["user_id"]),
)
APART = ("people_invitation", "people_accesstoken", "plan_draft")
"""Whose these are does not make a trial theirs."""

# ruff: noqa: S608 - made of the names above alone
OTHERS = """
      IF EXISTS (
        SELECT 1 FROM {table} WHERE {where} AND {column} IS NOT NULL AND {column} <> person
          AND {column} NOT IN (SELECT id FROM people_user WHERE NOT is_active AND email LIKE 'brought-in-%@no-account.invalid')
      ) THEN
        RAISE EXCEPTION 'others have a part in it ({table}): nothing is erased' USING ERRCODE = 'integrity_constraint_violation';
      END IF;
"""


def _function() -> str:
    checks = "".join(
        OTHERS.format(table=table, where=where, column=column)
        for table, where, columns in HELD
        for column in columns
        if table not in APART
    )
    deletes = "".join(f"      DELETE FROM {table} WHERE {where};\n" for table, where, _ in HELD)
    return f"""
    CREATE FUNCTION only_ones_own(person bigint, leaving uuid[]) RETURNS void LANGUAGE plpgsql STABLE
    SET search_path = public, pg_temp AS $$
    BEGIN
      IF EXISTS (
        SELECT unnest(leaving) EXCEPT SELECT trial_id FROM people_membership WHERE user_id = person AND role = 'lead'
      ) THEN
        RAISE EXCEPTION 'not all of these are led by that person: nothing is erased' USING ERRCODE = 'integrity_constraint_violation';
      END IF;
{checks}
    END $$;
    CREATE FUNCTION erase_trials(person bigint, leaving uuid[]) RETURNS void LANGUAGE plpgsql
    SECURITY DEFINER SET search_path = public, pg_temp AS $$
    BEGIN
      PERFORM only_ones_own(person, leaving);
      PERFORM set_config('fieldtally.erasing', 'account', true);
{deletes}
      UPDATE share_bringing SET trial_id = NULL WHERE trial_id = ANY (leaving);
      DELETE FROM people_trial WHERE id = ANY (leaving);
      PERFORM set_config('fieldtally.erasing', '', true);
    END $$;
    REVOKE ALL ON FUNCTION erase_trials(bigint, uuid[]) FROM PUBLIC;
    """


class Migration(migrations.Migration):
    dependencies = [
        ("share", "0002_report"),
        ("people", "0006_chain"),
        ("plan", "0003_samples_stay"),
        ("prepare", "0003_starts_stay"),
        ("rounds", "0005_rounds_stay"),
        ("panels", "0003_servings_stay"),
        ("verdict", "0003_interim_looks"),
    ]
    operations = [
        migrations.RunSQL(
            _function(), "DROP FUNCTION erase_trials(bigint, uuid[]); DROP FUNCTION only_ones_own(bigint, uuid[]);"
        )
    ]
