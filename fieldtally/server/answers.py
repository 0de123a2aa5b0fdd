"""The one shape of every error: ``{"problems": [{"at": …, "says": …}]}``, a sentence for each field it belongs to."""

from django.http import HttpResponse
from ninja import Schema

from fieldtally.core.problems import Problem


class ProblemOut(Schema):
    """A sentence (``says``) about one field (``at``, a dotted path; empty: about the whole); ``asks``: it is done all the same once the
    request says so (header ``X-Said-Anyway: yes``)."""

    at: str
    says: str
    asks: bool = False


class ProblemsOut(Schema):
    """Why nothing was done."""

    problems: list[ProblemOut]


class Declined(Exception):
    """A request that cannot be done, with its HTTP status and the sentences to show."""

    def __init__(self, status: int, *problems: Problem | str) -> None:
        self.status = status
        self.problems = [Problem("", p) if isinstance(p, str) else p for p in problems]
        super().__init__("; ".join(problem.says for problem in self.problems))

    def body(self) -> dict[str, list[dict[str, str | bool]]]:
        """What is sent."""
        return {"problems": [{"at": p.at, "says": p.says, "asks": p.asks} for p in self.problems]}


def missing() -> Declined:
    """One answer for what does not exist and for what is somebody else's."""
    return Declined(404, "There is nothing here, or it is not yours to see.")


def as_it_is(out: Schema) -> HttpResponse:
    """A large answer, written as JSON as it is: it was made by this server, so it is not held against its own shape again."""
    return HttpResponse(out.model_dump_json(), content_type="application/json; charset=utf-8")
