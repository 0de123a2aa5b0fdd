"""What was sealed before trials named the version of their plan that stands: its newest amendment, else its seal."""

from django.db import migrations

NAMED = """
    UPDATE people_trial t SET plan_seal = coalesce(
      (SELECT a.seal FROM plan_amendment a WHERE a.trial_id = t.id ORDER BY a.number DESC LIMIT 1),
      (SELECT s.seal FROM plan_sealedplan s WHERE s.trial_id = t.id),
      ''
    )
"""


class Migration(migrations.Migration):
    dependencies = [("plan", "0003_samples_stay"), ("people", "0008_plan_seal")]
    operations = [migrations.RunSQL(NAMED, migrations.RunSQL.noop)]
