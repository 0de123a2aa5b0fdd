"""The chain of a trial, and moments that are set once."""

import django.db.models.deletion
from django.db import migrations, models

from fieldtally.server.appendonly import SET_ONCE, append_only, set_once


class Migration(migrations.Migration):
    dependencies = [("people", "0005_erasing")]
    operations = [
        migrations.CreateModel(
            name="ChainEntry",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.PositiveIntegerField()),
                ("text", models.TextField()),
                ("link", models.CharField(max_length=64)),
                (
                    "trial",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="chain", to="people.trial"
                    ),
                ),
            ],
            options={
                "ordering": ["number"],
                "constraints": [models.UniqueConstraint(fields=("trial", "number"), name="one_chain_entry_a_number")],
            },
        ),
        append_only("people_chainentry"),
        SET_ONCE,
        set_once(
            "people_trial",
            ("sealed_at", "opened_at", "opened_by_id", "brought_at", "brought_by_id", "<started_at"),
            frozen=("id", "created_at", "origin"),
        ),
    ]
