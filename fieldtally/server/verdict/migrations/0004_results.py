import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("people", "0009_words_of_the_field"),
        ("verdict", "0003_interim_looks"),
    ]

    operations = [
        migrations.CreateModel(
            name="Result",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("part", models.CharField(max_length=20)),
                ("key", models.CharField(max_length=64)),
                (
                    "state",
                    models.CharField(
                        choices=[
                            ("waiting", "Waiting"),
                            ("running", "Running"),
                            ("done", "Done"),
                            ("failed", "Failed"),
                        ],
                        default="waiting",
                        max_length=8,
                    ),
                ),
                ("says", models.CharField(blank=True, max_length=500)),
                ("body", models.BinaryField(default=bytes)),
                ("moved_at", models.DateTimeField()),
                (
                    "trial",
                    models.ForeignKey(
                        db_constraint=False,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="results",
                        to="people.trial",
                    ),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("trial", "part"), name="one_result_a_part")],
            },
        ),
    ]
