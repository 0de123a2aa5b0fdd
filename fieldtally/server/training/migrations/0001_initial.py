"""Practice, readiness and what scorers graded together come over from the rounds."""

import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from fieldtally.server.renaming import renamed


class Migration(migrations.Migration):
    dependencies = [
        ("rounds", "0006_rooms_of_their_own"),
        ("log", "0001_initial"),
        ("measuring", "0001_initial"),
        ("people", "0007_addresses_confirmed"),
        ("plan", "0003_samples_stay"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                renamed(
                    {
                        "rounds_calibration": "training_calibration",
                        "rounds_readiness": "training_readiness",
                        "rounds_trainingset": "training_trainingset",
                        "rounds_calibrationgrade": "training_calibrationgrade",
                        "rounds_traininganswer": "training_traininganswer",
                    }
                )
            ],
            state_operations=[
                migrations.CreateModel(
                    name="Calibration",
                    fields=[
                        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                        ("samples", models.JSONField()),
                        ("begun_at", models.DateTimeField()),
                        ("shown_at", models.DateTimeField(null=True)),
                        (
                            "begun_by",
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
                            "note",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="log.lognote",
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
                                related_name="calibrations",
                                to="people.trial",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["begun_at", "pk"],
                    },
                ),
                migrations.CreateModel(
                    name="Readiness",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                            ),
                        ),
                        ("outcome", models.CharField(max_length=40)),
                        ("off", models.FloatField()),
                        ("bias", models.FloatField()),
                        ("sets", models.PositiveSmallIntegerField()),
                        ("at", models.DateTimeField()),
                        ("until", models.DateTimeField()),
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
                                on_delete=django.db.models.deletion.PROTECT, related_name="readiness", to="people.trial"
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["at", "pk"],
                    },
                ),
                migrations.CreateModel(
                    name="TrainingSet",
                    fields=[
                        ("id", models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                        ("outcome", models.CharField(max_length=40)),
                        ("begun_at", models.DateTimeField()),
                        ("ended_at", models.DateTimeField(null=True)),
                        (
                            "by",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "trial",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="training_sets",
                                to="people.trial",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["begun_at", "pk"],
                    },
                ),
                migrations.CreateModel(
                    name="CalibrationGrade",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                            ),
                        ),
                        ("value", models.FloatField()),
                        ("at", models.DateTimeField()),
                        (
                            "calibration",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="grades",
                                to="training.calibration",
                            ),
                        ),
                        (
                            "sample",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT, related_name="+", to="plan.sample"
                            ),
                        ),
                        (
                            "scorer",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                    ],
                    options={
                        "constraints": [
                            models.UniqueConstraint(
                                fields=("calibration", "sample", "scorer"), name="one_calibration_grade_each"
                            )
                        ],
                    },
                ),
                migrations.CreateModel(
                    name="TrainingAnswer",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                            ),
                        ),
                        ("place", models.PositiveSmallIntegerField()),
                        ("truth", models.FloatField()),
                        ("seed", models.PositiveIntegerField()),
                        ("given", models.FloatField(null=True)),
                        ("gauged", models.FloatField(null=True)),
                        ("answered_at", models.DateTimeField(null=True)),
                        (
                            "photo",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="measuring.photo",
                            ),
                        ),
                        (
                            "set",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="answers",
                                to="training.trainingset",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ["place"],
                        "constraints": [
                            models.UniqueConstraint(fields=("set", "place"), name="one_training_answer_a_place")
                        ],
                    },
                ),
            ],
        )
    ]
