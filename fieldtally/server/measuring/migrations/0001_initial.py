"""Photos, and what was measured in them, come over from the rounds."""

import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from fieldtally.server.renaming import renamed


class Migration(migrations.Migration):
    dependencies = [
        ("rounds", "0006_rooms_of_their_own"),
        ("log", "0001_initial"),
        ("people", "0007_addresses_confirmed"),
        ("plan", "0003_samples_stay"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                renamed(
                    {
                        "rounds_photo": "measuring_photo",
                        "rounds_gaugerecipe": "measuring_gaugerecipe",
                        "rounds_gaugerun": "measuring_gaugerun",
                        "rounds_gauging": "measuring_gauging",
                        "rounds_photofile": "measuring_photofile",
                        "rounds_gaugedreading": "measuring_gaugedreading",
                    }
                )
            ],
            state_operations=[
                migrations.CreateModel(
                    name="Photo",
                    fields=[
                        ("id", models.UUIDField(editable=False, primary_key=True, serialize=False)),
                        ("outcome", models.CharField(blank=True, max_length=40)),
                        ("level", models.FloatField(null=True)),
                        ("caption", models.CharField(blank=True, max_length=200)),
                        ("width", models.PositiveIntegerField()),
                        ("height", models.PositiveIntegerField()),
                        ("brightness", models.FloatField()),
                        ("tint", models.JSONField()),
                        ("taken_at", models.DateTimeField()),
                        ("stored_at", models.DateTimeField()),
                        ("gone", models.BooleanField(default=False)),
                        (
                            "by",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "checkpoint",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="photos",
                                to="plan.checkpoint",
                            ),
                        ),
                        (
                            "note",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="photos",
                                to="log.lognote",
                            ),
                        ),
                        (
                            "sample",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="photos",
                                to="plan.sample",
                            ),
                        ),
                        (
                            "trial",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT, related_name="photos", to="people.trial"
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["stored_at", "pk"],
                    },
                ),
                migrations.CreateModel(
                    name="GaugeRecipe",
                    fields=[
                        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                        ("recipe", models.JSONField()),
                        ("marks", models.JSONField()),
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
                            "outcome",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT, related_name="+", to="plan.outcome"
                            ),
                        ),
                        (
                            "trial",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="gauge_recipes",
                                to="people.trial",
                            ),
                        ),
                        (
                            "photo",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="measuring.photo",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["at", "pk"],
                    },
                ),
                migrations.CreateModel(
                    name="GaugeRun",
                    fields=[
                        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                        ("done", models.PositiveIntegerField(default=0)),
                        ("total", models.PositiveIntegerField()),
                        ("failed", models.CharField(blank=True, max_length=300)),
                        ("cancelled", models.BooleanField(default=False)),
                        ("begun_at", models.DateTimeField(auto_now_add=True)),
                        ("ended_at", models.DateTimeField(null=True)),
                        (
                            "by",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "checkpoint",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT, related_name="+", to="plan.checkpoint"
                            ),
                        ),
                        (
                            "recipe",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="runs",
                                to="measuring.gaugerecipe",
                            ),
                        ),
                        (
                            "trial",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="gauge_runs",
                                to="people.trial",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["-begun_at"],
                    },
                ),
                migrations.CreateModel(
                    name="Gauging",
                    fields=[
                        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                        ("marks", models.JSONField()),
                        ("value", models.FloatField(null=True)),
                        ("uncertainty", models.FloatField(null=True)),
                        ("colour", models.JSONField()),
                        ("flags", models.JSONField()),
                        ("mask", models.BinaryField()),
                        ("box", models.JSONField()),
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
                            "recipe",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="gaugings",
                                to="measuring.gaugerecipe",
                            ),
                        ),
                        (
                            "trial",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT, related_name="gaugings", to="people.trial"
                            ),
                        ),
                        (
                            "photo",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="gaugings",
                                to="measuring.photo",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["at", "pk"],
                    },
                ),
                migrations.CreateModel(
                    name="PhotoFile",
                    fields=[
                        (
                            "photo",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.CASCADE,
                                primary_key=True,
                                related_name="file",
                                serialize=False,
                                to="measuring.photo",
                            ),
                        ),
                        ("full", models.BinaryField()),
                        ("small", models.BinaryField()),
                    ],
                ),
                migrations.CreateModel(
                    name="GaugedReading",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                            ),
                        ),
                        (
                            "reading",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT, related_name="gauged", to="rounds.reading"
                            ),
                        ),
                        (
                            "gauging",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="readings",
                                to="measuring.gauging",
                            ),
                        ),
                    ],
                    options={
                        "constraints": [
                            models.UniqueConstraint(
                                fields=("reading", "gauging"), name="one_link_a_reading_and_gauging"
                            )
                        ],
                    },
                ),
                migrations.AddIndex(
                    model_name="photo",
                    index=models.Index(fields=["trial", "checkpoint"], name="photos_by_look"),
                ),
                migrations.AddIndex(
                    model_name="gauging",
                    index=models.Index(fields=["recipe", "photo"], name="gaugings_by_photo"),
                ),
            ],
        )
    ]
