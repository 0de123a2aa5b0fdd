"""A few readings are counted by the index and many by one pass, whatever the planner knows of the table."""

from django.db import migrations

from fieldtally.server.rounds.counting import COUNTING_ALIKE, COUNTING_BY_SIZE


class Migration(migrations.Migration):
    dependencies = [("rounds", "0010_looked_by")]

    operations = [migrations.RunSQL(COUNTING_BY_SIZE, COUNTING_ALIKE)]
