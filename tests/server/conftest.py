"""People, and a trial in each of its states."""

from __future__ import annotations

import os
import time
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from datetime import timedelta
from uuid import UUID, uuid4

import psycopg
import pytest
from django.db import connection
from django.db.backends.signals import connection_created
from django.test import Client
from django.utils import timezone

from fieldtally.core.design.fair.items import ITEMS
from fieldtally.core.design.plan import (
    Block,
    Checkpoint,
    CycleSetting,
    Dose,
    HeldEqual,
    Layout,
    Outcome,
    Plan,
    Product,
    Stand,
    Summary,
    Treatment,
)
from fieldtally.core.rounds.written import Written
from fieldtally.core.scales import CountScale, GradeScale, Level, MeasurementScale, PassFailScale
from fieldtally.server.grants import APPLICATION, grant
from fieldtally.server.people.models import Membership, Role, Trial, User
from fieldtally.server.plan import services as plan_services
from fieldtally.server.plan.models import Sample
from fieldtally.server.prepare import services as prepare_services
from fieldtally.server.rounds import services as round_services
from fieldtally.server.rounds.writing import write_readings
from fieldtally.server.verdict import services as verdict_services

HOUR, DAY = 60, 1440
APPLICATION_PASSWORD = os.environ.get("FT_DB_APP_PASSWORD", "only-for-tests")
PLAN = Plan(
    title="Beans under zebra mulch",
    question="Does Zebra mulch beat quartz grit?",
    sample_word="pot",
    zone="Europe/London",
    sample_size="2 L",
    carrier="tap water",
    top_up=True,
    products=(
        Product("p-zebra", "Zebra tea", "zebrine", "34 %", "250 mL", 5.0, 30),
        Product("p-quartz", "Quartz wash", "zebrine", "15 %", "1 L", 4.0),
    ),
    treatments=(
        Treatment(
            "t-zebra",
            "Zebra mulch",
            "untreated",
            2,
            "note on zebra",
            doses=(Dose("d-1", "p-zebra", "label", "4 mL/L"),),
        ),
        Treatment("t-quartz", "Quartz grit", samples=2, doses=(Dose("d-2", "p-quartz", "label", "2 mL/L", times=2),)),
        Treatment("t-violet", "Violet fleece", samples=2),
    ),
    layout=Layout("blocks", (Block("b-east", "East of the violet fleece", "sun"), Block("b-west", "West", "shade"))),
    outcomes=(
        Outcome(
            "o-grade",
            "Vigour",
            GradeScale((Level(0, "0", "dead"), Level(1, "1", "like under Quartz grit"), Level(2, "2", "lush"))),
            summary=Summary("value", "c-2"),
        ),
        Outcome(
            "o-height",
            "Height",
            MeasurementScale("cm", low=0, high=300),
            primary=False,
            wait=2,
            wait_says="lift the Violet fleece",
        ),
        Outcome("o-pods", "Pods", CountScale(40), primary=False, checkpoints=("c-2",)),
        Outcome("o-alive", "Alive", PassFailScale("alive", "dead"), primary=False),
    ),
    checkpoints=(
        Checkpoint("c-1", "Day 1", DAY, 6 * HOUR, 6 * HOUR),
        Checkpoint("c-2", "Day 2", 2 * DAY, 6 * HOUR, 6 * HOUR),
    ),
    cycle_word="watering",
    cycle_minutes=DAY,
    cycle_settings=(CycleSetting("s-warm", "Warmth under Violet fleece", "20 °C"),),
    held_equal=(HeldEqual("h-soil", "Soil without Quartz grit", "one sack"),),
)
PLAN = replace(PLAN, fairness=tuple(Stand(item.key, False, "only a test") for item in ITEMS))
SECRETS = ("zebra", "quartz", "violet", "t-zebra", "t-quartz", "t-violet")
ROLES = ("lead", "blind lead", "preparer", "scorer", "viewer")
STATES = ("draft", "sealed", "running", "opened")


def signed_in(user: User, **kw) -> Client:
    client = Client(**kw)
    client.force_login(user, backend="allauth.account.auth_backends.AuthenticationBackend")
    return client


@dataclass
class World:
    """A trial with its people; ``clients`` are signed in, by role."""

    trial: Trial
    users: dict[str, User]
    clients: dict[str, Client] = field(default_factory=dict)
    rounds: dict[str, UUID] = field(default_factory=dict)

    def call(self, role: str, method: str, path: str, body=None, **more):
        """A request to ``/api/trials/ID`` + path."""
        client, address = self.clients[role], f"/api/trials/{self.trial.pk}{path}"
        answer = getattr(client, method)(address, body, content_type="application/json", **more)
        # What a request changed of the plan is there for the next one; so it is for what a test asks itself.
        self.trial.plan_seal = Trial.objects.filter(pk=self.trial.pk).values_list("plan_seal", flat=True).first() or ""
        return answer

    def insist(self, role: str, method: str, path: str, body=None):
        """The same, whose words are kept as they are though they tell a treatment."""
        return self.call(role, method, path, body, headers={"X-Said-Anyway": "yes"})

    def get(self, role: str, path: str):
        return self.clients[role].get(f"/api/trials/{self.trial.pk}{path}")


def user(name: str) -> User:
    return User.objects.create_user(f"{name.replace(' ', '-')}@x.example", "a long password", name=f"Person {name}")


def make(state: str, plan: Plan = PLAN, *, blind: bool = False, scored: bool = True) -> World:
    """A trial led to ``state``, scored once by the scorer at its first checkpoint."""
    users = {role: user(role) for role in (*ROLES[:1], *ROLES[2:], "outsider")}
    trial = plan_services.begin(users["lead"], plan)
    for role in (Role.PREPARER, Role.SCORER, Role.VIEWER):
        Membership.objects.create(trial=trial, user=users[role], role=role)
    Membership.objects.filter(trial=trial, role=Role.LEAD).update(blind=blind)
    world = World(trial, users, {role: signed_in(person) for role, person in users.items()})
    steps = STATES.index(state)
    now = timezone.now()
    if steps >= 1:
        plan_services.seal(trial, users["lead"], 1, seed="c0ffee", at=now - timedelta(days=3))
    if steps >= 2:
        trial.refresh_from_db()
        prepare_services.start_exposure(trial, users["preparer"], at=now - timedelta(days=1, hours=1))
        trial.refresh_from_db()
        if scored:
            score(world, "c-1")
    if steps >= 3:
        verdict_services.ask_to_open(trial, users["lead"])
        verdict_services.open_key(trial, users["lead"], plan.title)
    trial.refresh_from_db()
    return world


def score(world: World, checkpoint: str, role: str = "scorer") -> None:
    """Score every sample on every outcome of ``checkpoint``."""
    opened = round_services.open_round(world.trial, world.users[role], checkpoint)
    world.rounds[checkpoint] = opened.pk
    values = {"o-grade": 1.0, "o-height": 12.5, "o-alive": 1.0}
    written = [
        Written(uuid4(), opened.pk, sample.pk, outcome, "value", value + (i % 2), "", timezone.now())
        if outcome != "o-alive"
        else Written(uuid4(), opened.pk, sample.pk, outcome, "value", float(i % 2), "", timezone.now())
        for i, sample in enumerate(Sample.objects.filter(trial=world.trial).order_by("code"))
        for outcome, value in values.items()
    ]
    write_readings(world.trial, world.users[role], written)


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker):
    """The tests work as the application's own role does, which cannot undo a record."""
    with django_db_blocker.unblock():
        for _ in range(20):
            # Roles belong to the whole cluster: another worker may be at it.
            connection.ensure_connection()
            try:
                grant(connection.connection, APPLICATION_PASSWORD)
                break
            except psycopg.errors.InternalError:
                time.sleep(0.2)
            finally:
                connection.close()

    def as_application(connection, **_):
        with connection.cursor() as cursor:
            cursor.execute(f"SET ROLE {APPLICATION}")

    connection_created.connect(as_application)
    yield
    connection_created.disconnect(as_application)


@contextmanager
def as_owner():
    """The database as its owner has it, triggers off: for what a test makes happen behind the application's back."""
    with connection.cursor() as cursor:
        cursor.execute("RESET ROLE")
        cursor.execute("SET LOCAL session_replication_role = replica")
        yield cursor
        cursor.execute("SET LOCAL session_replication_role = origin")
        cursor.execute(f"SET ROLE {APPLICATION}")


@pytest.fixture(autouse=True)
def letters_are_kept(settings):
    """The test runner swaps the mail backend; ours keeps letters in the database.  Passwords are hashed fast here."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    settings.EMAIL_BACKEND = "fieldtally.server.people.mailbox.MailboxBackend"


__all__ = ["PLAN", "ROLES", "SECRETS", "STATES", "World", "make", "replace", "score", "signed_in", "user"]
