"""Rounds and second codes stay as they were; of a picture nothing changes but that it may be taken away."""

from django.db import migrations

from fieldtally.server.appendonly import append_only, set_once

SHOWN = (
    "id",
    "trial_id",
    "width",
    "height",
    "brightness",
    "tint",
    "by_id",
    "taken_at",
    "stored_at",
    "outcome",
    "level",
)


class Migration(migrations.Migration):
    dependencies = [("rounds", "0004_append_only_too"), ("people", "0006_chain")]
    operations = [
        append_only("rounds_round"),
        append_only("rounds_repeat"),
        set_once("rounds_photo", (), frozen=(*SHOWN, "checkpoint_id", "sample_id", "note_id")),
    ]
