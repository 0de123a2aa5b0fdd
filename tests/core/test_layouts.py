"""Every layout: balanced where it promises to be, over many seeds, and the same for the same seed."""

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fieldtally.core.blinding.allocation import allocate
from fieldtally.core.design.factors import cells_of
from fieldtally.core.design.grid import large_enough, spots_of
from fieldtally.core.design.layout import lay_out, starts_in
from fieldtally.core.design.plan import Block, Factor, FactorLevel, Grid, Layout, Plan, Treatment
from fieldtally.core.design.sound.layout import layout_problems
from fieldtally.core.design.sound.treatments import treatment_problems

SEEDS = st.integers(0, 2**128).map(lambda n: f"{n:x}")
BLOCKS = (Block("n", "North"), Block("s", "South"), Block("e", "East", starts=60))


def of(count, samples, **layout):
    return Plan(
        "x", treatments=tuple(Treatment(k, k, samples=samples) for k in "abcdefg"[:count]), layout=Layout(**layout)
    )


def split(whole_plots=2, samples=1, blocks=()):
    bed = Factor("bed", "Bed", (FactorLevel("dug", "Dug"), FactorLevel("mulch", "Mulched")), hard=True)
    kind = Factor("kind", "Kind", (FactorLevel("x", "Early"), FactorLevel("y", "Late"), FactorLevel("z", "Dwarf")))
    treatments = tuple(
        Treatment(f"{b}{k}", f"{b} {k}", samples=samples, levels={"bed": b, "kind": k})
        for b in ("dug", "mulch")
        for k in "xyz"
    )
    return Plan(
        "x", factors=(bed, kind), treatments=treatments, layout=Layout("split", blocks=blocks, whole_plots=whole_plots)
    )


def says(plan):
    return {p.at: p.says for p in (*layout_problems(plan), *treatment_problems(plan))}


@settings(max_examples=40)
@given(SEEDS)
def test_each_block_holds_each_treatment_as_often(seed):
    slots = lay_out(of(4, 3, kind="blocks", blocks=BLOCKS), seed)
    assert Counter((slot.block, slot.treatment) for slot in slots) == {(b.key, t): 3 for b in BLOCKS for t in "abcd"}


@settings(max_examples=40)
@given(SEEDS, st.integers(3, 7), st.integers(1, 2))
def test_each_row_and_column_of_a_square_holds_each_treatment_once(seed, side, squares):
    slots = lay_out(of(side, side * squares, kind="latin"), seed)
    for line in ("row", "column"):
        counts = Counter((slot.plot, getattr(slot, line), slot.treatment) for slot in slots)
        assert set(counts.values()) == {1}
        assert len(counts) == side * side * squares
    assert [slot.place for slot in slots] == list(range(1, len(slots) + 1))


@settings(max_examples=40)
@given(SEEDS, st.booleans())
def test_whole_plots_hold_one_level_and_all_its_treatments(seed, blocked):
    plan = split(2, 2, BLOCKS if blocked else ())
    slots = lay_out(plan, seed)
    level = {t.key: t.levels["bed"] for t in plan.treatments}
    for plot in {slot.plot for slot in slots}:
        inside = [slot for slot in slots if slot.plot == plot]
        assert len({level[slot.treatment] for slot in inside}) == 1
        assert set(Counter(slot.treatment for slot in inside).values()) == {2}
        assert len(inside) == 6
    plots = Counter((slot.block, level[slot.treatment], slot.plot) for slot in slots)
    assert set(Counter((block, held) for block, held, _ in plots).values()) == {2}


@settings(max_examples=40)
@given(SEEDS)
def test_each_pair_holds_both(seed):
    slots = lay_out(of(2, 7, kind="pairs"), seed)
    assert all({slot.treatment for slot in slots if slot.plot == pair} == {"a", "b"} for pair in range(1, 8))


@settings(max_examples=60)
@given(SEEDS, st.integers(2, 5), st.integers(2, 6))
def test_no_treatment_is_favoured_by_a_shared_edge(seed, count, samples):
    grid = large_enough(Grid(4, 4, edge="shared"), count * samples)
    plan = of(count, samples, grid=grid)
    spots = spots_of(grid)[: count * samples]
    edge = {(spot.row, spot.column) for spot in spots if spot.edge}
    slots = lay_out(plan, seed)
    assert Counter(slot.treatment for slot in slots) == dict.fromkeys("abcde"[:count], samples)
    on_edge = Counter(slot.treatment for slot in slots if (slot.row, slot.column) in edge)
    shares = [on_edge[key] for key in "abcde"[:count]]
    assert max(shares) - min(shares) <= 1


@pytest.mark.parametrize("layout", ["random", "latin", "pairs", "split", "blocks"])
def test_the_same_seed_gives_the_same_layout_and_another_seed_another(layout):
    plan = {
        "random": of(4, 4),
        "latin": of(4, 4, kind="latin"),
        "pairs": of(2, 8, kind="pairs"),
        "split": split(3),
        "blocks": of(4, 4, kind="blocks", blocks=BLOCKS),
    }[layout]
    assert allocate(plan, "00ff") == allocate(plan, "00ff")
    assert [a.treatment for a in allocate(plan, "00ff")] != [a.treatment for a in allocate(plan, "00fe")]
    assert len(allocate(plan, "1")) == plan.sample_count


def test_every_place_of_a_square_gets_every_treatment_as_often():
    """Over many seeds no cell favours a treatment: 600 squares of 3, each cell near 200 of each."""
    plan = of(3, 3, kind="latin")
    counts = Counter(
        (slot.row, slot.column, slot.treatment) for seed in range(600) for slot in lay_out(plan, str(seed))
    )
    assert min(counts.values()) > 150
    assert max(counts.values()) < 250


def test_guards_stand_between_neighbours_and_around_the_edge():
    spots = spots_of(Grid(5, 7, guard_columns=True, guard_rows=True, edge="guarded"))
    assert [(s.row, s.column) for s in spots] == [(r, c) for r in (2, 4) for c in (2, 4, 6)]
    assert spots_of(Grid(2, 9, edge="guarded")) == ()
    assert large_enough(Grid(2, 2, edge="guarded"), 12) == Grid(3, 14, edge="guarded")


def test_starts_are_staggered_by_block_and_one_after_another():
    plan = of(2, 2, kind="blocks", blocks=BLOCKS, stagger=5)
    slots = lay_out(plan, "1")
    assert starts_in(plan, slots) == (0, 5, 10, 15, 0, 5, 10, 15, 60, 65, 70, 75)
    assert [allotted.starts for allotted in allocate(plan, "1")] == list(starts_in(plan, slots))


@pytest.mark.parametrize(
    ("plan", "where", "what_would_work"),
    [
        (of(4, 5, kind="latin"), "treatments.0.samples", "4 or 8"),
        (of(2, 4, kind="latin"), "layout.kind", "pairs"),
        (of(3, 4, kind="pairs"), "layout.kind", "blocks"),
        (
            replace(
                of(2, 4, kind="pairs"), treatments=(Treatment("a", "a", samples=4), Treatment("b", "b", samples=6))
            ),
            "treatments.1.samples",
            "4 or 6",
        ),
        (of(4, 3, kind="split"), "layout.kind", "hard to change"),
        (split(1), "layout.whole_plots", "two would do"),
        (of(3, 4, grid=Grid(2, 5)), "layout.grid.columns", "2 × 6 would do"),
        (of(3, 4, grid=Grid(0, 5)), "layout.grid.rows", "between 1"),
        (of(3, 4, kind="blocks", blocks=BLOCKS[:1]), "layout.blocks", "no blocks"),
        (of(3, 4, kind="blocks", blocks=BLOCKS[2:] * 2), "layout.blocks.0.starts", "at 0"),
        (of(3, 4, stagger=-1), "layout.stagger", "none and a year"),
        (of(3, 9000), "treatments.0.samples", "3,333 of each"),
    ],
)
def test_an_impossible_layout_is_said_at_its_field_with_what_would_work(plan, where, what_would_work):
    assert what_would_work in says(plan)[where]


def test_treatments_of_a_split_plot_need_their_level_and_plots_of_one_size():
    plan = split(2)
    bare = replace(plan, treatments=(replace(plan.treatments[0], levels={}), *plan.treatments[1:]))
    assert "has no level of Bed" in says(bare)["treatments.0.levels"]
    uneven = replace(plan, treatments=plan.treatments[:5])
    assert "between 2 and 3 samples" in says(uneven)["layout.kind"]
    empty = replace(plan, treatments=plan.treatments[:3])
    assert "“Mulched”" in says(empty)["layout.kind"]


def test_cells_of_a_factorial_find_their_treatments():
    plan = split(2)
    cells = cells_of(plan)
    assert [cell.name for cell in cells[:2]] == ["Dug, Early", "Dug, Late"]
    assert [cell.treatment for cell in cells] == [t.key for t in plan.treatments]
    picked = replace(plan, treatments=plan.treatments[1:])
    assert next(cell.treatment for cell in cells_of(picked)) is None
    again = replace(plan, treatments=(*plan.treatments, replace(plan.treatments[0], key="again", name="Again")))
    assert "same levels already" in says(again)["treatments.6.levels"]
    many = replace(plan, factors=tuple(Factor(str(i), str(i), plan.factors[1].levels) for i in range(6)))
    assert cells_of(many) == ()
    assert "729 combinations" in says(many)["factors"]
