"""No door tells a blind role what is compared, and none opens to a stranger: every endpoint, every role, every state."""

import io
import json
import re
import zipfile
from itertools import product
from uuid import uuid4

import pypdfium2
import pytest
import zxingcpp
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import Client
from django.utils import timezone

from fieldtally.core.design.document import document_of
from fieldtally.core.panels.plan import PanelPlan
from fieldtally.server.api import api
from fieldtally.server.measuring.models import Photo
from fieldtally.server.panels import planning
from fieldtally.server.panels.models import Assessor, Panel, Serving
from fieldtally.server.people.models import Invitation, User
from fieldtally.server.people.sight import HIDDEN, blacked_out
from fieldtally.server.plan.models import KeyEntry, Lent, Sample, SharedThing
from fieldtally.server.share.models import MadeFile
from fieldtally.server.verdict.models import MethodsKept
from tests.depth import cells
from tests.server.conftest import PLAN, SECRETS, STATES, as_owner, make, replace, user
from tests.server.pictures import picture

pytestmark = pytest.mark.django_db
BLIND = ("scorer", "viewer")
NOW = timezone.now().isoformat()


def leads_file(world):
    """A file that the lead asked for, with treatments in it."""
    now = timezone.now()
    found, _ = MadeFile.objects.get_or_create(
        trial=world.trial,
        by=world.users["lead"],
        defaults={
            "wanted": {"what": "pack", "paper": "a4", "short": False},
            "state": "done",
            "content": b"zebra, untreated",
            "kind": "text/plain",
            "asked_at": now,
            "moved_at": now,
        },
    )
    return found


def somebodys_shared(kind):
    """What somebody with no part in the trial keeps for everybody: nobody else may take it away."""
    other = User.objects.filter(email="lends@x.example").first() or user("lends")
    return SharedThing.objects.get_or_create(kind=kind, name="Theirs", defaults={"document": [], "by": other})[0].pk


def somebodys_methods(world):
    """A comparison of methods that the lead has kept: nobody else may open it or throw it away."""
    given = {"text": "a,b\n1,2\n2,3\n3,5"}
    return MethodsKept.objects.get_or_create(
        user=world.users["lead"], name="Zebra strips", defaults={"given": given, "at": timezone.now()}
    )[0].pk


def calls(world):
    """A request for each endpoint of the API: (method, path of the schema) → (address, body)."""
    trial = f"/api/trials/{world.trial.pk}"
    sample = Sample.objects.filter(trial=world.trial).first()
    kept = Photo.objects.filter(trial=world.trial).first()
    photo = kept.pk if kept else uuid4()
    panel, assessor, serving = panel_of(world)
    practised = uuid4()
    reading = {
        "id": str(uuid4()),
        "round": str(world.rounds.get("c-1", uuid4())),
        "sample": str(sample.pk if sample else uuid4()),
        "outcome": "o-grade",
        "kind": "value",
        "value": 2,
        "reason": "",
        "taken_at": "2026-01-01T00:00:00Z",
    }
    plan = json.loads(json.dumps(api_plan()))
    return {
        ("get", "/api/me"): ("/api/me", None),
        ("get", "/api/doorstep"): ("/api/doorstep", None),
        ("get", "/api/mailbox"): ("/api/mailbox", None),
        ("get", "/api/shelf"): ("/api/shelf", None),
        ("post", "/api/trials"): ("/api/trials", {"title": "Another", "zone": "UTC"}),
        ("post", "/api/outlook"): ("/api/outlook", {"plan": {"title": "Another"}}),
        ("get", "/api/patterns"): ("/api/patterns", None),
        ("get", "/api/patterns/earlier"): ("/api/patterns/earlier", None),
        ("get", "/api/trials/{trial_id}/pattern"): (f"{trial}/pattern", None),
        ("post", "/api/description"): ("/api/description", {"text": "jute or hemp, five of each"}),
        ("post", "/api/looks"): ("/api/looks", {"rule": "daily, 3 times"}),
        ("post", "/api/layout"): ("/api/layout", {"plan": {"title": "Another"}, "draw": 1}),
        ("post", "/api/given"): ("/api/given", {"plan": {"title": "Another"}, "text": "A"}),
        ("post", "/api/calendar"): (
            "/api/calendar",
            {"plan": {"title": "Another", "starts_on": "2026-01-01T08:00"}, "trial": None},
        ),
        ("post", "/api/dry-run"): ("/api/dry-run", {"plan": {"title": "Another"}, "run": 1}),
        ("post", "/api/dry-runs"): ("/api/dry-runs", {"plan": {"title": "Another"}, "runs": 10}),
        ("get", "/api/dry-runs/{rehearsal_id}"): (f"/api/dry-runs/{world.trial.pk}", None),
        ("delete", "/api/dry-runs/{rehearsal_id}"): (f"/api/dry-runs/{world.trial.pk}", None),
        ("get", "/api/treatments"): ("/api/treatments", None),
        ("get", "/api/bench"): ("/api/bench", None),
        ("post", "/api/bench"): ("/api/bench", {"sum": "change", "given": {"before": "2", "after": "3"}}),
        ("get", "/api/scales"): ("/api/scales", None),
        ("get", "/api/trials/{trial_id}/plan/version"): (f"{trial}/plan/version", None),
        ("get", "/api/trials/{trial_id}/prediction"): (f"{trial}/prediction", None),
        ("put", "/api/trials/{trial_id}/prediction"): (f"{trial}/prediction", {"text": "something will win"}),
        ("post", "/api/trials/{trial_id}/changes"): (f"{trial}/changes", {"plan": plan}),
        ("post", "/api/trials/{trial_id}/amend"): (f"{trial}/amend", {"plan": plan, "reason": "rain"}),
        ("get", "/api/trials/{trial_id}/held"): (f"{trial}/held", None),
        ("post", "/api/trials/{trial_id}/held/ticks"): (f"{trial}/held/ticks", {"entry": "h-soil"}),
        ("post", "/api/trials/{trial_id}/differences"): (
            f"{trial}/differences",
            {"about": "h-soil", "reason": "two sacks"},
        ),
        ("post", "/api/trials/{trial_id}/again"): (f"{trial}/again", {}),
        ("put", "/api/trials/{trial_id}/filed"): (f"{trial}/filed", {"filed": False}),
        ("put", "/api/trials/{trial_id}/title"): (f"{trial}/title", {"title": "Beans"}),
        ("delete", "/api/trials/{trial_id}"): (trial, None),
        ("post", "/api/trials/{trial_id}/cycles"): (f"{trial}/cycles", {"note": "40 °C"}),
        ("post", "/api/trials/{trial_id}/skips"): (f"{trial}/skips", {"checkpoint": "c-2", "reason": "storm"}),
        ("post", "/api/trials/{trial_id}/unplanned-looks"): (f"{trial}/unplanned-looks", {"reason": "it smelled"}),
        ("get", "/api/invitations/{token}"): ("/api/invitations/open-sesame", None),
        ("post", "/api/invitations/{token}"): ("/api/invitations/open-sesame", {}),
        ("get", "/api/trials/{trial_id}/people"): (f"{trial}/people", None),
        ("delete", "/api/trials/{trial_id}/people/{membership_id}"): (
            f"{trial}/people/{world.trial.memberships.last().pk}",
            None,
        ),
        ("post", "/api/trials/{trial_id}/invitations/team"): (
            f"{trial}/invitations/team",
            {"team": 1, "role": "scorer"},
        ),
        ("post", "/api/trials/{trial_id}/invitations"): (
            f"{trial}/invitations",
            {"email": "new@x.example", "role": "scorer"},
        ),
        ("delete", "/api/trials/{trial_id}/invitations/{invitation_id}"): (f"{trial}/invitations/1", None),
        ("get", "/api/trials/{trial_id}/plan"): (f"{trial}/plan", None),
        ("put", "/api/trials/{trial_id}/plan"): (f"{trial}/plan", {"plan": plan, "version": 1}),
        ("post", "/api/trials/{trial_id}/seal"): (f"{trial}/seal", {"version": 1, "stay_blind": True}),
        ("post", "/api/trials/{trial_id}/key-looks"): (f"{trial}/key-looks", {}),
        ("post", "/api/trials/{trial_id}/start"): (f"{trial}/start", {}),
        ("get", "/api/trials/{trial_id}/course"): (f"{trial}/course", None),
        ("get", "/api/trials/{trial_id}/board"): (f"{trial}/board", None),
        ("post", "/api/trials/{trial_id}/aside"): (
            f"{trial}/aside",
            {"code": sample.code if sample else "1", "reason": "fell", "back": False},
        ),
        ("post", "/api/trials/{trial_id}/rounds"): (f"{trial}/rounds", {"checkpoint": "c-1"}),
        ("post", "/api/trials/{trial_id}/readings"): (f"{trial}/readings", {"readings": [reading]}),
        ("get", "/api/trials/{trial_id}/log"): (f"{trial}/log", None),
        ("post", "/api/trials/{trial_id}/notes"): (f"{trial}/notes", {"text": "It rained."}),
        ("post", "/api/trials/{trial_id}/key/ask"): (f"{trial}/key/ask", {}),
        ("post", "/api/trials/{trial_id}/key/open"): (f"{trial}/key/open", {"title": PLAN.title}),
        ("get", "/api/trials/{trial_id}/receipt"): (f"{trial}/receipt", None),
        ("post", "/api/trials/{trial_id}/receipt/check"): (f"{trial}/receipt/check", {"receipt": "f" * 64}),
        ("get", "/api/trials/{trial_id}/verdict"): (f"{trial}/verdict", None),
        ("get", "/api/trials/{trial_id}/line-up"): (f"{trial}/line-up", None),
        ("post", "/api/trials/{trial_id}/line-up"): (f"{trial}/line-up", {"picture": 3}),
        ("post", "/api/trials/{trial_id}/tally"): (f"{trial}/tally", {"weights": {"o-grade": 2}}),
        ("get", "/api/trials/{trial_id}/progress"): (f"{trial}/progress", None),
        ("post", "/api/trials/{trial_id}/interim"): (f"{trial}/interim", {"checkpoint": "c-1"}),
        ("get", "/api/trials/{trial_id}/report"): (f"{trial}/report", None),
        ("put", "/api/trials/{trial_id}/report"): (f"{trial}/report", {"comments": {"result": "x"}}),
        ("get", "/api/trials/{trial_id}/report.html"): (f"{trial}/report.html", None),
        ("get", "/api/trials/{trial_id}/report.pdf"): (f"{trial}/report.pdf", None),
        ("post", "/api/trials/{trial_id}/publish"): (f"{trial}/publish", {"out": True}),
        ("get", "/api/trials/{trial_id}/chart"): (f"{trial}/chart?outcome=o-grade", None),
        ("get", "/api/trials/{trial_id}/workbook.xlsx"): (f"{trial}/workbook.xlsx", None),
        ("get", "/api/trials/{trial_id}/verdict.json"): (f"{trial}/verdict.json", None),
        ("get", "/api/published/{token}"): ("/api/published/open-sesame", None),
        ("post", "/api/published/{token}/expected"): ("/api/published/open-sesame/expected", {}),
        ("get", "/api/published/{token}/line-up"): ("/api/published/open-sesame/line-up", None),
        ("post", "/api/published/{token}/line-up"): ("/api/published/open-sesame/line-up", {"picture": 3}),
        ("get", "/api/published/{token}/report.html"): ("/api/published/open-sesame/report.html", None),
        ("get", "/api/published/{token}/report.pdf"): ("/api/published/open-sesame/report.pdf", None),
        ("post", "/api/published/{token}/files"): ("/api/published/open-sesame/files", {"what": "report"}),
        ("post", "/api/trials/{trial_id}/files"): (f"{trial}/files", {"what": "pack"}),
        ("get", "/api/trials/{trial_id}/files/{file_id}"): (f"{trial}/files/{leads_file(world).pk}", None),
        ("get", "/api/published/{token}/files/{file_id}"): (
            f"/api/published/open-sesame/files/{leads_file(world).pk}",
            None,
        ),
        ("get", "/api/published/{token}/card.png"): ("/api/published/open-sesame/card.png", None),
        ("get", "/api/earlier-assessors"): ("/api/earlier-assessors", None),
        ("get", "/api/tokens"): ("/api/tokens", None),
        ("post", "/api/tokens"): ("/api/tokens", {"name": "my shed"}),
        ("delete", "/api/tokens/{token_id}"): (f"/api/tokens/{uuid4()}", None),
        ("get", "/api/account/leaving"): ("/api/account/leaving", None),
        ("post", "/api/account/leave"): ("/api/account/leave", {"email": "nobody@x.example"}),
        ("get", "/api/known"): ("/api/known?about=mulch", None),
        ("get", "/api/shared-questions"): ("/api/shared-questions", None),
        ("post", "/api/combined"): (
            "/api/combined",
            {"trials": [str(world.trial.pk)], "a": "x", "b": "y", "outcome": "Vigour"},
        ),
        ("post", "/api/imports"): (
            "/api/imports",
            Multipart(file=SimpleUploadedFile("beans.csv", b"treatment,cm\na,1\na,2\nb,3\nb,4\n")),
        ),
        ("get", "/api/imports"): ("/api/imports", None),
        ("get", "/api/imports/{import_id}"): (f"/api/imports/{practised}", None),
        ("delete", "/api/imports/{import_id}"): (f"/api/imports/{practised}", None),
        ("get", "/api/imports/{import_id}/table"): (f"/api/imports/{practised}/table", None),
        ("put", "/api/imports/{import_id}/table"): (
            f"/api/imports/{practised}/table",
            {"meaning": {"columns": []}},
        ),
        ("post", "/api/imports/{import_id}/in"): (f"/api/imports/{practised}/in", {}),
        ("post", "/api/imports/{import_id}/on"): (f"/api/imports/{practised}/on", {}),
        ("post", "/api/methods"): ("/api/methods", {"text": "a,b\n1,2\n2,3\n3,5"}),
        ("get", "/api/place"): ("/api/place", None),
        ("get", "/api/place/members"): ("/api/place/members", None),
        ("post", "/api/place/members/{user_id}"): ("/api/place/members/1", {"on": False}),
        ("get", "/api/place/audit"): ("/api/place/audit", None),
        ("post", "/api/scales/shared"): (
            "/api/scales/shared",
            {"name": "Leaf", "attributes": [{"name": "Leaf", "scale": {"kind": "passfail"}}]},
        ),
        ("delete", "/api/scales/shared/{thing_id}"): (f"/api/scales/shared/{somebodys_shared(Lent.SCALES)}", None),
        ("get", "/api/sites"): ("/api/sites", None),
        ("post", "/api/sites"): ("/api/sites", {"name": "Ours", "places": [{"name": "Bed 1"}]}),
        ("delete", "/api/sites/{thing_id}"): (f"/api/sites/{somebodys_shared(Lent.SITES)}", None),
        ("get", "/api/place/teams"): ("/api/place/teams", None),
        ("post", "/api/place/teams"): ("/api/place/teams", {"name": "All", "members": [1]}),
        ("put", "/api/place/teams/{team_id}"): ("/api/place/teams/1", {"name": "All", "members": [1]}),
        ("delete", "/api/place/teams/{team_id}"): ("/api/place/teams/1", None),
        ("post", "/api/account/square"): ("/api/account/square", {"text": "otpauth://totp/x?secret=ABC"}),
        ("post", "/api/methods/trial"): ("/api/methods/trial", {"text": "a,b\n1,2\n2,3\n3,5", "title": "Two strips"}),
        ("get", "/api/methods/kept"): ("/api/methods/kept", None),
        ("post", "/api/methods/kept"): ("/api/methods/kept", {"text": "a,b\n1,2\n2,3\n3,5", "name": "Two strips"}),
        ("get", "/api/methods/kept/{kept_id}"): (f"/api/methods/kept/{somebodys_methods(world)}", None),
        ("delete", "/api/methods/kept/{kept_id}"): (f"/api/methods/kept/{somebodys_methods(world)}", None),
        ("get", "/api/trials/{trial_id}/readings.csv"): (f"{trial}/readings.csv", None),
        ("get", "/api/trials/{trial_id}/pack.zip"): (f"{trial}/pack.zip", None),
        ("post", "/api/understood"): ("/api/understood", {"text": "4 mL/L", "wants": "rate"}),
        ("post", "/api/doses"): ("/api/doses", {"plan": {"title": "Another"}}),
        ("get", "/api/tools"): ("/api/tools", None),
        ("post", "/api/tools"): ("/api/tools", {"text": "1 mL by 0.1 mL"}),
        ("delete", "/api/tools/{tool_id}"): ("/api/tools/1", None),
        ("get", "/api/devices"): ("/api/devices", None),
        ("get", "/api/today"): ("/api/today", None),
        ("get", "/api/trials/{trial_id}/agreement"): (f"{trial}/agreement", None),
        ("get", "/api/trials/{trial_id}/conditions"): (f"{trial}/conditions", None),
        ("post", "/api/trials/{trial_id}/conditions"): (f"{trial}/conditions", {"temperature": 7.5}),
        ("post", "/api/trials/{trial_id}/accidents"): (
            f"{trial}/accidents",
            {"accident": "weather", "codes": [], "effect": "mark", "reason": "hail", "since": NOW},
        ),
        ("post", "/api/trials/{trial_id}/methods"): (f"{trial}/methods", {"outcome": "o-pods", "reason": "lost count"}),
        ("get", "/api/trials/{trial_id}/guesses"): (f"{trial}/guesses", None),
        ("post", "/api/trials/{trial_id}/guesses"): (
            f"{trial}/guesses",
            {"guesses": [{"sample": str(sample.pk), "belief": "control"}] if sample else []},
        ),
        ("get", "/api/trials/{trial_id}/second-codes"): (f"{trial}/second-codes?checkpoint=c-1", None),
        ("get", "/api/trials/{trial_id}/panels"): (f"{trial}/panels", None),
        ("post", "/api/trials/{trial_id}/panels"): (f"{trial}/panels", {"plan": {"title": "Zebra or quartz"}}),
        ("post", "/api/panel-outlook"): ("/api/panel-outlook", {"plan": {"title": "x"}, "treatments": []}),
        ("get", "/api/panels/{panel_id}"): (f"/api/panels/{panel}", None),
        ("put", "/api/panels/{panel_id}"): (f"/api/panels/{panel}", {"plan": {"title": "x"}, "version": 1}),
        ("post", "/api/panels/{panel_id}/begin"): (f"/api/panels/{panel}/begin", {}),
        ("post", "/api/panels/{panel_id}/close"): (f"/api/panels/{panel}/close", {}),
        ("post", "/api/panels/{panel_id}/pour"): (f"/api/panels/{panel}/pour", {}),
        ("get", "/api/panels/{panel_id}/result"): (f"/api/panels/{panel}/result", None),
        ("post", "/api/panels/{panel_id}/assessors"): (f"/api/panels/{panel}/assessors", {"assessors": [{}]}),
        ("post", "/api/assessors/{assessor_id}"): (f"/api/assessors/{assessor}", {"free": True}),
        ("get", "/api/assessors/{assessor_id}"): (f"/api/assessors/{assessor}", None),
        ("post", "/api/servings/{serving_id}/spilt"): (f"/api/servings/{serving}/spilt", {"what": "x"}),
        ("get", "/api/booth/{token}"): ("/api/booth/open-sesame", None),
        ("post", "/api/booth/{token}/consent"): ("/api/booth/open-sesame/consent", {"agreed": True}),
        ("post", "/api/booth/{token}/judgements"): ("/api/booth/open-sesame/judgements", {"judgements": []}),
        ("post", "/api/booth/{token}/stop"): ("/api/booth/open-sesame/stop", {}),
        ("get", "/api/booth/{token}/known/{stimulus}"): ("/api/booth/open-sesame/known/0", None),
        ("get", "/api/booth/{token}/card"): ("/api/booth/open-sesame/card", None),
        ("get", "/api/booth/{token}/date.ics"): ("/api/booth/open-sesame/date.ics", None),
        ("post", "/api/seats"): ("/api/seats", {"code": "000000"}),
        ("get", "/api/tastings"): ("/api/tastings", None),
        ("post", "/api/tastings"): ("/api/tastings", {"things": ["Oak"], "panel": {"title": "x"}, "people": []}),
        ("post", "/api/panels/{panel_id}/open"): (f"/api/panels/{panel}/open", {}),
        ("get", "/api/panels/{panel_id}/answers.csv"): (f"/api/panels/{panel}/answers.csv", None),
        ("get", "/api/booth/{token}/sets/{serving_id}/{place}"): (f"/api/booth/open-sesame/sets/{serving}/0", None),
        ("get", "/api/tables/{token}"): ("/api/tables/open-sesame", None),
        ("post", "/api/panels/{panel_id}/sessions"): (f"/api/panels/{panel}/sessions", {}),
        ("post", "/api/panels/{panel_id}/table"): (f"/api/panels/{panel}/table", {"lay": True}),
        ("post", "/api/panels/{panel_id}/materials/{thing}"): (
            f"/api/panels/{panel}/materials/t-zebra",
            Multipart(file=SimpleUploadedFile("zebra.wav", b"no sound", content_type="audio/wav")),
        ),
        ("post", "/api/panels/{panel_id}/prints/pour.pdf"): (f"/api/panels/{panel}/prints/pour.pdf", {}),
        ("get", "/api/panels/{panel_id}/prints/cards.pdf"): (f"/api/panels/{panel}/prints/cards.pdf", None),
        ("get", "/api/assessors/{assessor_id}/qr.svg"): (f"/api/assessors/{assessor}/qr.svg", None),
        ("get", "/api/practice"): ("/api/practice", None),
        ("post", "/api/practice"): ("/api/practice", {"sets": 2}),
        ("get", "/api/practice/{practice_id}"): (f"/api/practice/{practised}", None),
        ("delete", "/api/practice/{practice_id}"): (f"/api/practice/{uuid4()}", None),
        ("post", "/api/practice/{practice_id}/answers"): (
            f"/api/practice/{practised}/answers",
            {"place": 0, "answer": [0]},
        ),
        ("get", "/api/practice/{practice_id}/sets/{number}/{place}"): (f"/api/practice/{practised}/sets/0/0", None),
        ("get", "/api/helper/{token}"): ("/api/helper/open-sesame", None),
        ("get", "/api/trials/{trial_id}/photos"): (f"{trial}/photos", None),
        ("post", "/api/trials/{trial_id}/photos"): (f"{trial}/photos", photo_form()),
        ("post", "/api/photos/{photo_id}/away"): (f"/api/photos/{photo}/away", {"reason": "blurred"}),
        ("get", "/api/photos/{photo_id}.jpg"): (f"/api/photos/{photo}.jpg", None),
        ("get", "/api/photos/{photo_id}/against/{other_id}"): (f"/api/photos/{photo}/against/{photo}", None),
        ("get", "/api/trials/{trial_id}/tray"): (f"{trial}/tray", None),
        ("post", "/api/trials/{trial_id}/tray"): (f"{trial}/tray", tray_form()),
        ("post", "/api/trials/{trial_id}/tray/known"): (f"{trial}/tray/known", {"digests": ["0" * 64]}),
        ("post", "/api/trials/{trial_id}/tray/say"): (f"{trial}/tray/say", {"photos": [str(uuid4())], "code": "1"}),
        ("post", "/api/trials/{trial_id}/tray/file"): (f"{trial}/tray/file", {"photos": [str(uuid4())]}),
        ("post", "/api/trials/{trial_id}/tray/out"): (f"{trial}/tray/out", {"photos": [str(uuid4())]}),
        ("get", "/api/tray/{photo_id}.jpg"): (f"/api/tray/{photo}.jpg", None),
        ("get", "/api/time-code.svg"): ("/api/time-code.svg", None),
        ("get", "/api/weather"): ("/api/weather", None),
        ("get", "/api/feed"): ("/api/feed", None),
        ("put", "/api/feed"): ("/api/feed", {"letters": True}),
        ("get", "/api/calendars/{token}.ics"): ("/api/calendars/open-sesame.ics", None),
        ("post", "/api/devices/{key}/read"): ("/api/devices/none/read", {"unit": "g"}),
        ("post", "/api/devices/{key}/push"): ("/api/devices/none/push", {"told": ""}),
        ("get", "/api/label-sheets"): ("/api/label-sheets", None),
        ("get", "/api/trials/{trial_id}/mix"): (f"{trial}/mix", None),
        ("post", "/api/trials/{trial_id}/mix/ticks"): (f"{trial}/mix/ticks", {"step": "t-zebra/clean"}),
        ("post", "/api/trials/{trial_id}/packs"): (f"{trial}/packs", {"product": "p-zebra", "lot": "7"}),
        ("post", "/api/trials/{trial_id}/applications"): (
            f"{trial}/applications",
            {"entries": [{"id": str(uuid4()), "code": sample.code if sample else "1"}]},
        ),
        ("get", "/api/trials/{trial_id}/prepared"): (f"{trial}/prepared", None),
        ("get", "/api/trials/{trial_id}/shuffle"): (f"{trial}/shuffle", None),
        ("post", "/api/trials/{trial_id}/shuffle"): (f"{trial}/shuffle", {"kind": "flasks"}),
        ("post", "/api/trials/{trial_id}/uncover"): (f"{trial}/uncover", {"letters": {}}),
        ("get", "/api/trials/{trial_id}/prints/labels.pdf"): (f"{trial}/prints/labels.pdf", None),
        ("post", "/api/trials/{trial_id}/prints/handout.pdf"): (f"{trial}/prints/handout.pdf", {}),
        ("post", "/api/trials/{trial_id}/prints/key.pdf"): (f"{trial}/prints/key.pdf", {}),
        ("get", "/api/trials/{trial_id}/prints/mix.pdf"): (f"{trial}/prints/mix.pdf", None),
        ("post", "/api/trials/{trial_id}/prints/scoring.pdf"): (
            f"{trial}/prints/scoring.pdf?checkpoint=c-1",
            {},
        ),
        ("get", "/api/find"): ("/api/find?text=e", None),
        ("get", "/api/samples/{sample_id}"): (f"/api/samples/{sample.pk if sample else uuid4()}", None),
        ("get", "/api/trials/{trial_id}/baseline"): (f"{trial}/baseline", None),
        ("post", "/api/trials/{trial_id}/baseline"): (f"{trial}/baseline", {}),
        ("get", "/api/trials/{trial_id}/gauge"): (f"{trial}/gauge", None),
        ("get", "/api/trials/{trial_id}/gauge/{checkpoint}/{outcome}"): (f"{trial}/gauge/c-1/o-pods", None),
        ("post", "/api/trials/{trial_id}/gauge/try"): (f"{trial}/gauge/try", gauge_form(photo)),
        ("post", "/api/trials/{trial_id}/gauge/pick"): (
            f"{trial}/gauge/pick",
            {"photo": str(photo), "marks": gauge_form(photo)["marks"], "x": 0.5, "y": 0.5},
        ),
        ("put", "/api/trials/{trial_id}/gauge/recipe"): (f"{trial}/gauge/recipe", gauge_form(photo)),
        ("post", "/api/trials/{trial_id}/gauge/{checkpoint}/{outcome}/run"): (f"{trial}/gauge/c-1/o-pods/run", {}),
        ("post", "/api/trials/{trial_id}/gauge/{checkpoint}/{outcome}/keep"): (f"{trial}/gauge/c-1/o-pods/keep", {}),
        ("post", "/api/trials/{trial_id}/gauge-one/{outcome}"): (
            f"{trial}/gauge-one/o-pods",
            {"photo": str(photo), "marks": gauge_form(photo)["marks"]},
        ),
        ("delete", "/api/gauge-runs/{run_id}"): (f"/api/gauge-runs/{uuid4()}", None),
        ("get", "/api/gaugings/{gauging_id}.png"): (f"/api/gaugings/{uuid4()}.png", None),
        ("get", "/api/prints/photo-card.pdf"): ("/api/prints/photo-card.pdf", None),
        ("get", "/api/trials/{trial_id}/prints/photo-card.pdf"): (f"{trial}/prints/photo-card.pdf", None),
        ("get", "/api/trials/{trial_id}/training"): (f"{trial}/training", None),
        ("post", "/api/trials/{trial_id}/training"): (f"{trial}/training", {"outcome": "o-pods"}),
        ("get", "/api/training/{set_id}"): (f"/api/training/{practised}", None),
        ("post", "/api/training/{set_id}/grades"): (f"/api/training/{practised}/grades", {"place": 0, "given": 1}),
        ("get", "/api/training/{set_id}/{place}.jpg"): (f"/api/training/{practised}/0.jpg", None),
        ("get", "/api/trials/{trial_id}/together"): (f"{trial}/together", None),
        ("post", "/api/trials/{trial_id}/together"): (
            f"{trial}/together",
            {"checkpoint": "c-1", "outcome": "o-grade"},
        ),
        ("post", "/api/together/{calibration_id}/grades"): (
            f"/api/together/{practised}/grades",
            {"sample": str(sample.pk if sample else uuid4()), "value": 1},
        ),
        ("post", "/api/together/{calibration_id}/show"): (f"/api/together/{practised}/show", {}),
        ("post", "/api/together/{calibration_id}/agreed"): (
            f"/api/together/{practised}/agreed",
            {"text": "two is two"},
        ),
        ("get", "/api/trials/{trial_id}/find"): (f"{trial}/find?code={sample.code if sample else '1'}", None),
    }


def gauge_form(photo):
    """A recipe and marks for the photo gauge."""
    marks = {"thing": {"kind": "ellipse", "points": [[0.2, 0.2], [0.8, 0.8]]}, "reference": "none"}
    return {"photo": str(photo), "outcome": "o-pods", "recipe": {"measure": "spots"}, "marks": marks}


def panel_of(world):
    """A panel of the trial with somebody in it, begun where it can; ids of it, of them and of a set (of none: any)."""
    found = Panel.objects.filter(trial=world.trial).first()
    if found is None and world.trial.state in ("sealed", "running"):
        plan = PanelPlan("Zebra or quartz", things=("t-zebra", "t-quartz"))
        found = planning.begin_planning(world.trial, world.users["lead"], plan)
        planning.invite(found, [planning.Invited("Quartz taster")])
        planning.begin(found)
    person = Assessor.objects.filter(panel=found).first() if found else None
    served = Serving.objects.filter(assessor=person).first() if person else None
    return tuple(one.pk if one else uuid4() for one in (found, person, served))


class Multipart(dict):
    """A body that is sent as a form with files."""


def photo_form(**said):
    """A photo of the whole board at the first look."""
    file = SimpleUploadedFile("Zebra mulch.png", picture(), content_type="image/png")
    return Multipart(id=str(uuid4()), taken_at=NOW, checkpoint="c-1", file=file, **said)


def tray_form():
    """A photo for the tray."""
    file = SimpleUploadedFile("Zebra mulch.png", picture(), content_type="image/png")
    return Multipart(id=str(uuid4()), copied_at=NOW, file=file)


def api_plan():
    from fieldtally.core.design.document import document_of

    return document_of(PLAN)


def ask(client, method, address, body):
    """The answer to a request, after which everything stands as it stood before."""
    with transaction.atomic():
        if isinstance(body, Multipart):
            body["file"].seek(0)
            answer = client.post(address, body)
        elif method != "get":
            answer = getattr(client, method)(address, body, content_type="application/json")
        else:
            answer = client.get(address)
        transaction.set_rollback(True)
    return answer


HAIL = {"accident": "weather", "codes": [], "effect": "mark", "since": NOW}


def ask_kept(world, body):
    """A photo that the lead sends, and that stays."""
    return world.clients["lead"].post(f"/api/trials/{world.trial.pk}/photos", body, headers={"X-Said-Anyway": "yes"})


def told(answer) -> str:
    """All that an answer tells: status line, headers, body, and the files in a zip."""
    text = f"{answer.status_code} {sorted((k, v) for k, v in answer.headers.items() if k != 'Set-Cookie')}"
    body = answer.content
    if body[:2] == b"PK":
        with zipfile.ZipFile(io.BytesIO(body)) as files:
            return text + "".join(f"{name}\n{files.read(name).decode()}" for name in files.namelist())
    if body[:4] == b"%PDF":
        return text + words_on(body)
    if body[:3] == b"\xff\xd8\xff":
        return text + body.decode("latin-1")
    return text + body.decode()


def words_on(pdf: bytes) -> str:
    """All text of a PDF, its title and the targets of its QR codes."""
    document = pypdfium2.PdfDocument(pdf)
    found = [str(document.get_metadata_dict())]
    for page in document:
        found.append(page.get_textpage().get_text_range())
        picture = page.render(scale=200 / 72).to_pil().convert("L")
        found += [code.text for code in zxingcpp.read_barcodes(picture)]
    return "\n".join(found)


def endpoints():
    return {(method, path) for path, methods in api.get_openapi_schema()["paths"].items() for method in methods}


def test_the_walk_below_leaves_no_endpoint_out():
    assert set(calls(make("running"))) == endpoints()


@pytest.mark.parametrize(
    ("state", "role"), cells(list(product(STATES[:3], BLIND)), [("running", "scorer"), ("sealed", "viewer")])
)
def test_a_blind_role_learns_no_treatment_from_any_door(state, role):
    world = make(state)
    for (method, _), (address, body) in calls(world).items():
        text = told(ask(world.clients[role], method, address, body))
        for secret in SECRETS:
            assert secret not in text.casefold(), (method, address, secret)
        assert not re.search(r'"letter": "', text), (method, address)
        assert "untreated" not in text, (method, address)


@pytest.mark.parametrize(
    ("state", "role"),
    cells(list(product(("sealed", "running"), (*BLIND, "lead"))), [("running", "scorer"), ("sealed", "lead")]),
)
def test_exchanging_all_treatments_changes_no_answer_to_blind_eyes(state, role):
    """Neither order, counts, ids nor anything else depends on the key: with another key every answer is the same."""
    world = make(state, blind=True)
    requests = {k: v for k, v in calls(world).items() if k[1].startswith("/api/trials/{") or k[1] == "/api/shelf"}

    def answers():
        found = {}
        for (method, path), (address, body) in requests.items():
            text = told(ask(world.clients[role], method, address, body))
            text = re.sub(r"\d{4}-\d\d-\d\dT[\d:.]+(Z|\+00:00)", "TIME", text)
            # A request that would begin a round, a seal or an invitation makes a random id of its own.
            found[method, path] = (
                re.sub(r'"id": ("[0-9a-f-]{36}"|\d+)', "ID", text) if method == "post" and "aside" not in path else text
            )
        return found

    before = answers()
    exchange(world)
    after = answers()
    # These begin a round, whose order is drawn from its own random id, or tell the moment.
    skipped = {
        ("post", "/api/trials/{trial_id}/rounds"),
        ("post", "/api/trials/{trial_id}/unplanned-looks"),
        ("post", "/api/trials/{trial_id}/prints/scoring.pdf"),
        # Five samples by chance.
        ("post", "/api/trials/{trial_id}/together"),
        # A link is made of a random salt, and the requests of the walk are recorded too.
        ("get", "/api/trials/{trial_id}/receipt"),
        ("post", "/api/trials/{trial_id}/receipt/check"),
        # The exchange is made behind the seal's back, which is found and said, without a word of which treatment it was.
        ("post", "/api/trials/{trial_id}/key/ask"),
    }
    assert {k: v for k, v in before.items() if k not in skipped} == {k: v for k, v in after.items() if k not in skipped}
    if role == "lead":
        return
    for key in ("sees_key", "letter"):
        assert all(f'"{key}": "' not in text for text in before.values())


def exchange(world):
    """Give every sample another treatment, behind the back of the append-only tables."""
    turn = {"t-zebra": "t-quartz", "t-quartz": "t-violet", "t-violet": "t-zebra"}
    rows = list(KeyEntry.objects.filter(sample__trial=world.trial))
    with as_owner() as cursor:
        for row in rows:
            cursor.execute(
                "UPDATE plan_keyentry SET treatment = %s WHERE sample_id = %s", [turn[row.treatment], row.pk]
            )


@pytest.mark.parametrize(
    ("text", "names", "left"),
    [
        ("Zebra mulches beat ZEBRA MULCH", ["zebra mulch"], f"{HIDDEN}es beat {HIDDEN}"),
        ("Boiling oil", ["oil"], f"Boiling {HIDDEN}"),
        ("House mix plus", ["House mix", "House mix plus"], HIDDEN),
        ("Does a soak help?", ["a", "B"], "Does a soak help?"),
        ("C++ (new)", ["C++ (new)"], HIDDEN),
        ("ZEBRA-MULCH, zebra  mulch and zebramulch", ["Zebra mulch"], f"{HIDDEN}, {HIDDEN} and {HIDDEN}"),
        ("the cr\u0065\u0300me and the crème", ["Crème"], f"the {HIDDEN} and the {HIDDEN}"),
        ("Ｚｅｂｒａ ｍｕｌｃｈ, e\u00adlder", ["zebra mulch", "Elder"], f"{HIDDEN}, {HIDDEN}"),
        ("a moth among moths", ["Moths"], f"a {HIDDEN} among {HIDDEN}"),
        ("teaspoons of tea and teas", ["tea"], f"teaspoons of {HIDDEN} and {HIDDEN}"),
        ("treatment B fell over", [], f"treatment {HIDDEN} fell over"),
        ("Groups A were wet, product: C dry", [], f"Groups {HIDDEN} were wet, product: {HIDDEN} dry"),
        ("sort b; a mix of types, kind a thing", [], f"sort {HIDDEN}; a mix of types, kind a thing"),
    ],
)
def test_names_of_treatments_are_blacked_out_of_words(text, names, left):
    assert blacked_out(text, names) == left


def test_a_word_of_a_name_tells_by_itself_where_it_stands_in_one_alone():
    names = PLAN.telling_names
    assert {"zebra", "quartz", "violet", "mulch", "grit", "fleece", "zebrine"} <= set(names)
    assert (
        blacked_out("the quartz ones were wet, and the fleece too", names)
        == f"the {HIDDEN} ones were wet, and the {HIDDEN} too"
    )
    # What everybody reads anyway stays readable: the sample word, outcomes, looks.
    told = replace(PLAN, treatments=(replace(PLAN.treatments[0], name="Zebra pot"), *PLAN.treatments[1:])).telling_names
    assert blacked_out("Pot 3, Height on Day 1", told) == "Pot 3, Height on Day 1"


@pytest.mark.parametrize("role", BLIND)
def test_a_name_that_an_amendment_changed_or_dropped_is_still_one(role):
    world = make("running")
    code = Sample.objects.filter(trial=world.trial).first().code
    world.insist("lead", "post", "/aside", {"code": code, "reason": "the Tea one fell", "back": False})
    document = json.loads(json.dumps(document_of(PLAN)))
    document["products"][0]["name"] = "Okapi brew"
    answer = world.call("lead", "post", "/amend", {"plan": document, "reason": "what was Zebra-tea is called so now"})
    assert answer.status_code == 200, answer.content
    for path in ("/log", "/board", "/course"):
        text = told(world.get(role, path)).casefold()
        assert not any(one in text for one in (*SECRETS, "okapi", "tea ")), (path, text[:2000])
    assert "Tea one" in told(world.get("lead", "/log"))


@pytest.mark.parametrize("role", ["scorer", "viewer", "preparer"])
def test_of_a_draft_nobody_but_who_plans_it_reads_what_it_asks(role):
    world = make("draft")
    for path in ("/course",):
        text = told(world.get(role, path))
        assert "Beans" not in text and "Does" not in text
    shelf = world.clients[role].get("/api/shelf").json()["trials"]
    assert [one["title"] for one in shelf] == ["A trial in the making"]


def test_the_order_of_a_round_comes_from_the_round_alone():
    """Begun again after an exchange of all treatments, the same round has the same order."""
    world = make("running")
    before = world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).content
    exchange(world)
    assert world.call("scorer", "post", "/rounds", {"checkpoint": "c-1"}).content == before


@pytest.mark.parametrize("state", cells(STATES, ["running"]))
def test_no_door_opens_to_a_stranger(state):
    """Unknown, badly written and other people's are all the same 404."""
    world = make(state)
    Invitation.objects.all().delete()
    for (method, path), (address, body) in calls(world).items():
        nobody = ask(Client(), method, address, body)
        stranger = ask(world.clients["outsider"], method, address, body)
        if path in ("/api/doorstep", "/api/mailbox"):
            continue
        assert nobody.status_code in (401, 403, 404), (method, path)
        if "{" in path:
            unknown = ask(world.clients["outsider"], method, address.replace(str(world.trial.pk), str(uuid4())), body)
            assert stranger.status_code == 404, (method, path, stranger.content)
            assert stranger.content == unknown.content, (method, path)
            if "trial_id" in path:
                odd = ask(world.clients["outsider"], method, address.replace(str(world.trial.pk), "0"), body)
                assert odd.status_code == 404, (method, path)
        for secret in SECRETS:
            assert secret not in (told(nobody) + told(stranger)).casefold()


@pytest.mark.parametrize("state", cells(STATES, ["draft", "running"]))
def test_nobody_is_let_do_what_is_not_theirs(state):
    """What each role may do, told once as a table: 2xx, or 409 where only the state is in the way."""
    world = make(state)
    may = {
        ("put", "/api/trials/{trial_id}/plan"): {"lead"},
        ("post", "/api/trials/{trial_id}/seal"): {"lead"},
        ("post", "/api/trials/{trial_id}/invitations"): {"lead"},
        ("post", "/api/trials/{trial_id}/invitations/team"): {"lead"},
        ("post", "/api/trials/{trial_id}/key/ask"): {"lead"},
        ("get", "/api/trials/{trial_id}/progress"): {"lead"},
        ("post", "/api/trials/{trial_id}/interim"): {"lead"},
        ("post", "/api/trials/{trial_id}/key/open"): {"lead"},
        ("post", "/api/trials/{trial_id}/start"): {"lead", "preparer"},
        ("post", "/api/trials/{trial_id}/rounds"): {"lead", "scorer"},
        ("post", "/api/trials/{trial_id}/readings"): {"lead", "scorer"},
        ("post", "/api/trials/{trial_id}/changes"): {"lead"},
        ("post", "/api/trials/{trial_id}/amend"): {"lead"},
        ("post", "/api/trials/{trial_id}/held/ticks"): {"lead", "preparer"},
        ("post", "/api/trials/{trial_id}/differences"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/cycles"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/notes"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/skips"): {"lead", "scorer"},
        ("post", "/api/trials/{trial_id}/conditions"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/methods"): {"lead"},
        ("post", "/api/trials/{trial_id}/guesses"): {"lead", "scorer"},
        ("get", "/api/trials/{trial_id}/second-codes"): {"preparer"},
        ("post", "/api/trials/{trial_id}/photos"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/unplanned-looks"): {"lead", "scorer"},
        ("get", "/api/trials/{trial_id}/tray"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/tray"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/tray/known"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/tray/say"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/tray/file"): {"lead", "preparer", "scorer"},
        ("post", "/api/trials/{trial_id}/tray/out"): {"lead", "preparer", "scorer"},
    }
    if state in ("sealed", "running"):
        may["post", "/api/panels/{panel_id}/begin"] = {"lead"}
        may["post", "/api/panels/{panel_id}/assessors"] = {"lead"}
        may["post", "/api/panels/{panel_id}/pour"] = {"lead", "preparer"}
        may["post", "/api/assessors/{assessor_id}"] = {"lead"}
        may["post", "/api/panels/{panel_id}/sessions"] = {"lead"}
        may["post", "/api/panels/{panel_id}/open"] = {"lead"}
        may["post", "/api/panels/{panel_id}/table"] = {"lead"}
        may["post", "/api/panels/{panel_id}/materials/{thing}"] = {"lead"}
        may["post", "/api/panels/{panel_id}/prints/pour.pdf"] = {"lead", "preparer"}
        may["get", "/api/panels/{panel_id}/prints/cards.pdf"] = {"lead"}
        may["get", "/api/assessors/{assessor_id}/qr.svg"] = {"lead"}
    if state != "opened":
        may["post", "/api/trials/{trial_id}/again"] = {"lead"}
    if state == "draft":
        may["put", "/api/trials/{trial_id}/title"] = {"lead"}
        may["delete", "/api/trials/{trial_id}"] = {"lead"}
    for request, allowed in may.items():
        address, body = calls(world)[request]
        for role in ("lead", "preparer", "scorer", "viewer"):
            status = ask(world.clients[role], request[0], address, body).status_code
            assert (status == 403) == (role not in allowed), (request, role, status)


@pytest.mark.parametrize("role", BLIND)
def test_a_reason_that_names_a_treatment_tells_blind_eyes_nothing(role):
    """Who sets a sample aside or corrects a reading may know the key, and write down more than they should."""
    world = make("running")
    code = Sample.objects.filter(trial=world.trial).first().code
    world.insist("lead", "post", "/aside", {"code": code, "reason": "the Violet fleece one blew away", "back": False})
    for (method, _), (address, body) in calls(world).items():
        text = told(ask(world.clients[role], method, address, body)).casefold()
        assert not any(secret in text for secret in SECRETS), (method, address)
    assert "Violet fleece" in told(world.get("lead", "/board"))


@pytest.mark.parametrize("role", cells(BLIND, ["scorer"]))
def test_no_free_text_that_somebody_may_write_tells_blind_eyes_a_treatment(role):
    """Every field in which one who knows the treatments writes freely, each with a treatment's name in it."""
    world = make("running")
    code = Sample.objects.filter(trial=world.trial).first().code
    plan = {**api_plan(), "hazards": "Zebra mulch is sharp"}
    for who, method, path, body in (
        ("lead", "post", "/aside", {"code": code, "reason": "Zebra mulch blew away", "back": False}),
        ("preparer", "post", "/cycles", {"note": "Zebra mulch ones got more"}),
        ("preparer", "post", "/differences", {"about": "h-soil", "reason": "Quartz grit ones had another sack"}),
        ("lead", "post", "/skips", {"checkpoint": "c-2", "reason": "Violet fleece froze to the pots"}),
        ("lead", "post", "/amend", {"plan": plan, "reason": "Quartz grit ran out"}),
        ("lead", "post", "/unplanned-looks", {"reason": "Violet fleece tore"}),
        ("lead", "put", "/prediction", {"text": "Zebra mulch wins"}),
        ("preparer", "post", "/accidents", {**HAIL, "reason": "Zebra mulch ones were hit"}),
        ("preparer", "post", "/notes", {"text": "Quartz grit was wet", "working": "Zebra mulch 3 + 4 = 7 g"}),
    ):
        assert world.insist(who, method, path, body).status_code < 300, path
    sent = ask_kept(world, photo_form(caption="Violet fleece in bloom"))
    assert sent.status_code == 200
    assert (
        world.insist("lead", "post", "/methods", {"outcome": "o-pods", "reason": "Quartz grit hides them"}).status_code
        == 204
    )
    for (method, _), (address, body) in calls(world).items():
        text = told(ask(world.clients[role], method, address, body)).casefold()
        assert not any(secret in text for secret in SECRETS), (method, address)
    log = told(world.get("lead", "/log"))
    for word in (
        "Zebra mulch ones got more",
        "Quartz grit ran out",
        "Violet fleece froze",
        "Violet fleece tore",
        "was wet",
    ):
        assert word in log


def test_the_key_opens_to_all_and_brings_letters():
    world = make("opened")
    for role in ("lead", "preparer", "scorer", "viewer"):
        board = world.get(role, "/board").json()
        assert {tag["letter"] for tag in board["tags"]} == {"A", "B", "C"}
        assert [one["name"] for one in board["key"]] == [t.name for t in PLAN.treatments]
        assert world.get(role, "/verdict").status_code == 200


def test_only_recorded_eyes_take_treatments_along_while_sealed():
    world = make("running")
    assert "treatment" not in told(world.get("preparer", "/pack.zip"))
    handout = world.call("preparer", "post", "/key-looks").json()["rows"]
    assert {row["treatment"] for row in handout} == {t.name for t in PLAN.treatments}
    assert "treatments.csv" in told(world.get("preparer", "/pack.zip"))
    assert "t-zebra" not in told(world.get("scorer", "/pack.zip"))


def test_a_blind_lead_writes_the_plan_but_never_sees_the_key():
    world = make("running", blind=True)
    assert world.get("lead", "/plan").status_code == 200
    assert world.call("lead", "post", "/key-looks").status_code == 403
    assert not world.get("lead", "/course").json()["may_see_key"]
    pack = told(world.get("lead", "/pack.zip"))
    assert "plan.json" not in pack
    assert "treatments.csv" not in pack
