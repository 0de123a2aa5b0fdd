"""A reading is held to its round by statement; indexes and keys that others say already go."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from fieldtally.server.rounds.fitting import FITTING, NOT_FITTING


class Migration(migrations.Migration):
    dependencies = [
        ("people", "0009_words_of_the_field"),
        ("plan", "0004_the_version_that_stands"),
        ("rounds", "0008_taken"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AlterField(
            model_name="reading",
            name="checkpoint",
            field=models.ForeignKey(
                db_constraint=False,
                db_index=False,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="readings",
                to="plan.checkpoint",
            ),
        ),
        migrations.AlterField(
            model_name="reading",
            name="outcome",
            field=models.ForeignKey(
                db_constraint=False,
                db_index=False,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="readings",
                to="plan.outcome",
            ),
        ),
        migrations.AlterField(
            model_name="reading",
            name="repeat",
            field=models.ForeignKey(
                db_constraint=False,
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="readings",
                to="rounds.repeat",
            ),
        ),
        migrations.AlterField(
            model_name="reading",
            name="round",
            field=models.ForeignKey(
                db_constraint=False,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="readings",
                to="rounds.round",
            ),
        ),
        migrations.AlterField(
            model_name="reading",
            name="sample",
            field=models.ForeignKey(
                db_constraint=False,
                db_index=False,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="readings",
                to="plan.sample",
            ),
        ),
        migrations.AlterField(
            model_name="reading",
            name="scorer",
            field=models.ForeignKey(
                db_constraint=False,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="readings",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.AlterField(
            model_name="reading",
            name="trial",
            field=models.ForeignKey(
                db_constraint=False,
                db_index=False,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="readings",
                to="people.trial",
            ),
        ),
        migrations.RunSQL(FITTING, NOT_FITTING),
    ]
