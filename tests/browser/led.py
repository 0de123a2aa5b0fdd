"""Leading a trial to where a test begins, through the same doors that the pages use."""

from __future__ import annotations

from typing import Any

from fieldtally.core.design.document import document_of
from fieldtally.core.design.fair.items import ITEMS
from fieldtally.core.design.plan import Plan, Stand
from tests.browser.conftest import Visitor


def call(who: Visitor, method: str, path: str, body: Any = None) -> Any:
    """The answer of the server to a request of this person."""
    token = next((c["value"] for c in who.context.cookies() if c["name"] == "csrftoken"), "")
    answer = who.context.request.fetch(path, method=method, headers={"X-CSRFToken": token}, data=body)
    assert answer.ok, (method, path, answer.status, answer.text())
    return answer.json() if answer.body() else None


def begun(lead: Visitor, plan: Plan) -> str:
    """The id of a draft with that plan; its fairness list is given up throughout."""
    trial = call(lead, "POST", "/api/trials", {"title": plan.title, "zone": plan.zone})["id"]
    document = {**document_of(plan), "fairness": [vars(Stand(item.key, False, "a test of the app")) for item in ITEMS]}
    version = call(lead, "GET", f"/api/trials/{trial}/plan")["version"]
    call(lead, "PUT", f"/api/trials/{trial}/plan", {"plan": document, "version": version})
    return trial


def joined(lead: Visitor, trial: str, other: Visitor, email: str, role: str) -> None:
    """Another person of the demo takes part in the trial."""
    call(lead, "POST", f"/api/trials/{trial}/invitations", {"email": email, "role": role})
    letters = call(other, "GET", "/api/mailbox")
    token = next(one["text"] for one in letters if one["to"] == email).split("/invited/")[1].split()[0]
    call(other, "POST", f"/api/invitations/{token}")


def running(lead: Visitor, trial: str) -> None:
    """Sealed, with the lead blind, and started."""
    version = call(lead, "GET", f"/api/trials/{trial}/plan")["version"]
    call(lead, "POST", f"/api/trials/{trial}/seal", {"version": version, "stay_blind": True})
    call(lead, "POST", f"/api/trials/{trial}/start", {})
