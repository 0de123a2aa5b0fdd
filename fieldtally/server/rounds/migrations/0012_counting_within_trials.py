"""What is counted together is counted by one pass over its own trial, not over everybody's readings."""

from django.db import migrations

from fieldtally.server.rounds.counting import COUNTING_BY_SIZE, COUNTING_WITHIN_TRIALS


class Migration(migrations.Migration):
    dependencies = [("rounds", "0011_counting_by_size")]

    operations = [migrations.RunSQL(COUNTING_WITHIN_TRIALS, COUNTING_BY_SIZE)]
