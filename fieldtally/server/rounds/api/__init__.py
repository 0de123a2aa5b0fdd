"""Doors of the rounds stage: the shelf and the course, the board, finding a sample, scoring, paper, what changes on the way and what is
believed."""

from ninja import Router

from fieldtally.server.rounds.api.baseline import router as baseline
from fieldtally.server.rounds.api.board import router as board
from fieldtally.server.rounds.api.changing import router as changing
from fieldtally.server.rounds.api.course import router as course
from fieldtally.server.rounds.api.finding import router as finding
from fieldtally.server.rounds.api.guessing import router as guessing
from fieldtally.server.rounds.api.paper import router as paper
from fieldtally.server.rounds.api.scoring import router as scoring
from fieldtally.server.rounds.api.today import router as today

router = Router(tags=["rounds"])
for part in (today, course, board, baseline, finding, scoring, paper, changing, guessing):
    router.add_router("", part)
