"""Doors of the rounds stage: the shelf and the course, the board, finding a sample, scoring, paper, the log,
what changes on the way, what goes wrong, what is believed, what it was like, photos and what is
measured in them, and practice."""

from ninja import Router

from fieldtally.server.rounds.doors.agreeing import router as agreeing
from fieldtally.server.rounds.doors.baseline import router as baseline
from fieldtally.server.rounds.doors.board import router as board
from fieldtally.server.rounds.doors.calibrating import router as calibrating
from fieldtally.server.rounds.doors.changing import router as changing
from fieldtally.server.rounds.doors.conditions import router as conditions
from fieldtally.server.rounds.doors.course import router as course
from fieldtally.server.rounds.doors.finding import router as finding
from fieldtally.server.rounds.doors.gauging import router as gauging
from fieldtally.server.rounds.doors.guessing import router as guessing
from fieldtally.server.rounds.doors.happening import router as happening
from fieldtally.server.rounds.doors.log import router as log
from fieldtally.server.rounds.doors.paper import router as paper
from fieldtally.server.rounds.doors.photos import router as photos
from fieldtally.server.rounds.doors.scoring import router as scoring
from fieldtally.server.rounds.doors.today import router as today
from fieldtally.server.rounds.doors.training import router as training

router = Router(tags=["rounds"])
for part in (
    today,
    course,
    board,
    baseline,
    finding,
    scoring,
    paper,
    log,
    changing,
    agreeing,
    happening,
    guessing,
    conditions,
    photos,
    gauging,
    training,
    calibrating,
):
    router.add_router("", part)
