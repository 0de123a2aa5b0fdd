"""Do long work, one piece after the other, until it is told to end."""

import subprocess
import sys

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand

from fieldtally.server.hosting.queues import KEPT, PATIENT, URGENT, USUAL

IN_THE_DATABASE = ("--interval", "0.5", "--no-startup-delay")


class Command(BaseCommand):
    """``python -m django work``."""

    help = "Do long work: verdicts, reports, imports, photos, letters."

    def handle(self, *args: object, **options: object) -> None:
        """Work from the database's queue; or from Redis, and beside it what Redis did not take."""
        if settings.PLACE.queue != "redis":
            call_command("db_worker", *IN_THE_DATABASE)
            return
        command = [sys.executable, "-m", "django", "db_worker", "--backend", KEPT, *IN_THE_DATABASE]
        beside = subprocess.Popen(command)  # noqa: S603 - of this file
        try:
            call_command("rqworker", URGENT, USUAL, PATIENT, job_class="django_tasks_rq.Job", with_scheduler=True)
        finally:
            beside.terminate()
            beside.wait(60)
