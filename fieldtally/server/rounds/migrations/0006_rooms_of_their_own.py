"""The log, measuring and training have rooms of their own: their tables go over to these as they are."""

from django.db import migrations

MOVED = (
    "CalibrationGrade",
    "Calibration",
    "TrainingAnswer",
    "TrainingSet",
    "Readiness",
    "GaugedReading",
    "GaugeRun",
    "Gauging",
    "GaugeRecipe",
    "PhotoFile",
    "Photo",
    "Deviation",
    "Condition",
    "LogNote",
)


class Migration(migrations.Migration):
    dependencies = [("rounds", "0005_rounds_stay"), ("share", "0004_bringing_heard_of")]
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[migrations.DeleteModel(name) for name in MOVED])
    ]
