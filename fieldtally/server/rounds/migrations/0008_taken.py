"""What is taken is counted as it is written; what was written before is counted once."""

import django.db.models.deletion
from django.db import migrations, models

from fieldtally.server.rounds.counting import COUNTING, NOT_COUNTING


class Migration(migrations.Migration):
    dependencies = [
        ("people", "0009_words_of_the_field"),
        ("plan", "0004_the_version_that_stands"),
        ("rounds", "0007_newest_first"),
    ]

    operations = [
        migrations.CreateModel(
            name="Taken",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("outcomes", models.PositiveSmallIntegerField()),
                ("last", models.DateTimeField(null=True)),
                (
                    "checkpoint",
                    models.ForeignKey(
                        db_constraint=False,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="+",
                        to="plan.checkpoint",
                    ),
                ),
                (
                    "sample",
                    models.ForeignKey(
                        db_constraint=False,
                        db_index=False,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="+",
                        to="plan.sample",
                    ),
                ),
                (
                    "trial",
                    models.ForeignKey(
                        db_constraint=False,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="+",
                        to="people.trial",
                    ),
                ),
            ],
            options={
                "constraints": [
                    models.UniqueConstraint(fields=("checkpoint", "sample"), name="taken_once_a_checkpoint")
                ],
            },
        ),
        migrations.RunSQL(COUNTING, NOT_COUNTING),
    ]
