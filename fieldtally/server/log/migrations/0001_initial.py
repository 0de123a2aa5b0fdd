"""Deviations, conditions and notes come over from the rounds."""

import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from fieldtally.server.renaming import renamed


class Migration(migrations.Migration):
    dependencies = [
        ("rounds", "0006_rooms_of_their_own"),
        ("people", "0007_addresses_confirmed"),
        ("plan", "0003_samples_stay"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                renamed(
                    {
                        "rounds_condition": "log_condition",
                        "rounds_lognote": "log_lognote",
                        "rounds_deviation": "log_deviation",
                    }
                )
            ],
            state_operations=[
                migrations.CreateModel(
                    name="Condition",
                    fields=[
                        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                        ("place", models.CharField(blank=True, max_length=40)),
                        ("temperature", models.FloatField(null=True)),
                        ("humidity", models.FloatField(null=True)),
                        ("rain", models.FloatField(null=True)),
                        ("light", models.FloatField(null=True)),
                        ("device", models.CharField(blank=True, max_length=60)),
                        ("at", models.DateTimeField()),
                        (
                            "by",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "trial",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="conditions",
                                to="people.trial",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["at", "pk"],
                    },
                ),
                migrations.CreateModel(
                    name="LogNote",
                    fields=[
                        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                        ("text", models.TextField()),
                        ("working", models.TextField(blank=True)),
                        ("at", models.DateTimeField()),
                        (
                            "by",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "trial",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT, related_name="log_notes", to="people.trial"
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["at", "pk"],
                    },
                ),
                migrations.CreateModel(
                    name="Deviation",
                    fields=[
                        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                        ("about", models.CharField(blank=True, max_length=40)),
                        (
                            "kind",
                            models.CharField(
                                choices=[
                                    ("set_aside", "set aside"),
                                    ("left_out", "left out from a moment on"),
                                    ("put_back", "put back"),
                                    ("marked", "kept and marked"),
                                    ("difference", "not held equal"),
                                    ("skipped", "look skipped"),
                                    ("no_outcome", "outcome withdrawn"),
                                    ("split", "outcome split"),
                                ],
                                max_length=12,
                            ),
                        ),
                        (
                            "accident",
                            models.CharField(
                                blank=True,
                                choices=[
                                    ("dropped", "dropped or broken"),
                                    ("eaten", "eaten or gnawed"),
                                    ("disease", "diseased"),
                                    ("weather", "weather"),
                                    ("mixed_up", "mixed up or mishandled"),
                                    ("treatment", "treatment went wrong"),
                                    ("other", "something else"),
                                ],
                                max_length=10,
                            ),
                        ),
                        ("event", models.UUIDField(null=True)),
                        ("since", models.DateTimeField(null=True)),
                        ("reason", models.CharField(max_length=500)),
                        ("at", models.DateTimeField()),
                        ("after_key", models.BooleanField(default=False)),
                        (
                            "by",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "sample",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="deviations",
                                to="plan.sample",
                            ),
                        ),
                        (
                            "trial",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="deviations",
                                to="people.trial",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["at"],
                        "constraints": [
                            models.CheckConstraint(
                                condition=models.Q(
                                    ("kind", "marked"),
                                    models.Q(
                                        ("kind__in", ("difference", "skipped", "no_outcome", "split")), ("sample", None)
                                    ),
                                    models.Q(
                                        ("kind__in", ("set_aside", "left_out", "put_back")), ("sample__isnull", False)
                                    ),
                                    _connector="OR",
                                ),
                                name="only_deciding_about_a_sample_names_one",
                            ),
                            models.CheckConstraint(
                                condition=models.Q(
                                    models.Q(("kind__in", ["left_out", "split"]), _negated=True),
                                    ("since__isnull", False),
                                    _connector="OR",
                                ),
                                name="from_a_moment_on_has_a_moment",
                            ),
                        ],
                    },
                ),
            ],
        )
    ]
