"""The key of a trial that is open opened those of its panels; what is fixed of a panel is set once."""

from django.db import migrations

from fieldtally.server.appendonly import set_once

OPENED = """
UPDATE panels_panel p SET closed_at = coalesce(p.closed_at, t.opened_at), opened_at = t.opened_at
FROM people_trial t WHERE t.id = p.trial_id AND t.opened_at IS NOT NULL AND p.begun_at IS NOT NULL;
"""
SERVED = ("id", "assessor_id", "session", "place", "order", "codes")
BEFORE, NOW = ("seed", "begun_at", "closed_at"), ("seed", "begun_at", "closed_at", "seal", "began_with", "opened_at")
FIXED = ("id", "trial_id", "by_id")


def anew(
    table: str, once: tuple[str, ...], frozen: tuple[str, ...], was: tuple[tuple[str, ...], tuple[str, ...]]
) -> migrations.RunSQL:
    """The step that replaces what is set once of ``table``."""
    before, after = set_once(table, was[0], frozen=was[1]), set_once(table, once, frozen=frozen)
    return migrations.RunSQL(f"{before.reverse_sql}{after.sql}", f"{after.reverse_sql}{before.sql}")


class Migration(migrations.Migration):
    dependencies = [("panels", "0004_own_keys"), ("people", "0011_tasting")]
    operations = [
        migrations.RunSQL(OPENED, migrations.RunSQL.noop),
        anew("panels_serving", ("spilt",), (*SERVED, "stimulus"), (("spilt",), SERVED)),
        anew("panels_panel", NOW, FIXED, (BEFORE, FIXED)),
    ]
