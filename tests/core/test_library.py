"""The library's door: light to import, the same answer as the command, and a package without the server."""

import json
import re
import shutil
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

import fieldtally
from fieldtally.cli import main
from fieldtally.core.design.document import document_of
from fieldtally.core.design.plan import Outcome, Plan, Treatment
from fieldtally.core.scales import MeasurementScale
from fieldtally.version import VERSION

ROOT = Path(__file__).parents[2]
ROWS = {"soak": ["dry"] * 4 + ["tea"] * 4, "sprouted": [3, 4, 2, 3, 9, 8, 7, 9]}


def ran(code, *arguments, **options):
    return subprocess.run(
        [sys.executable, "-c", code, *arguments], capture_output=True, text=True, check=True, **options
    ).stdout


def test_importing_loads_nothing_heavy_and_a_verdict_no_server():
    code = (
        "import sys, fieldtally\n"
        "heavy = [m for m in ('numpy', 'scipy', 'pydantic', 'pint', 'django') if m in sys.modules]\n"
        "found = fieldtally.verdict({'t': ['a'] * 4 + ['b'] * 4, 'v': [1, 2, 3, 4, 11, 12, 13, 14]}, treatment='t', value='v')\n"
        "late = [m for m in ('django', 'scipy.stats', 'skimage') if m in sys.modules]\n"
        "print(heavy, late, found.winner)"
    )
    assert ran(code, cwd=ROOT).strip() == "[] [] b"


def test_the_command_and_the_library_tell_the_same(tmp_path, capsys):
    file = tmp_path / "data.csv"
    file.write_text("soak,sprouted\n" + "\n".join(f"{a},{b}" for a, b in zip(*ROWS.values(), strict=True)))
    assert main(["verdict", str(file), "--treatment", "soak", "--value", "sprouted", "--kind", "count", "--json"]) == 0
    assert (
        json.loads(capsys.readouterr().out)
        == fieldtally.verdict(ROWS, treatment="soak", value="sprouted", kind="count").to_dict()
    )
    assert main(["panel", "triangle", "24", "14", "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == fieldtally.panel("triangle", 24, 14)


def test_a_plan_is_told_what_it_can_tell(tmp_path, capsys):
    outcome = Outcome("o", "Mass", MeasurementScale("g"), expected=3.0, spread=1.0)
    plan = Plan("x", treatments=tuple(Treatment(k, k.upper(), samples=5) for k in "ab"), outcomes=(outcome,))
    file = tmp_path / "plan.json"
    file.write_text(json.dumps(document_of(plan)))
    assert main(["outlook", str(file), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told == json.loads(json.dumps(fieldtally.outlook(document_of(plan))))
    assert told["standing"] == "enough"
    assert told["shares"]["right"] > 0.9
    file.write_text(json.dumps({"title": "x"}))
    assert main(["outlook", str(file)]) == 2
    assert "too little to be played" in capsys.readouterr().err
    with pytest.raises(fieldtally.Refused, match="no JSON"):
        fieldtally.outlook("{")


def test_the_command_tells_its_version(capsys):
    with pytest.raises(SystemExit) as ended:
        main(["--version"])
    assert ended.value.code == 0 and capsys.readouterr().out.strip() == VERSION
    assert re.search(r"^## (Not released yet|\d+\.\d+\.\d+)", (ROOT / "CHANGELOG.md").read_text(), re.MULTILINE)


def test_the_package_holds_the_core_and_no_server(tmp_path):
    """Built as a user's pip would; unpacked somewhere else it answers, with the server's packages out of reach."""
    source = tmp_path / "source"
    shutil.copytree(ROOT / "fieldtally", source / "fieldtally", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", source)
    subprocess.run(
        [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "-w", str(tmp_path), str(source)],
        check=True,
        capture_output=True,
    )
    (wheel,) = tmp_path.glob("*.whl")
    with zipfile.ZipFile(wheel) as files:
        names = files.namelist()
        files.extractall(tmp_path / "there")
    assert "fieldtally/core/verdict/strength.py" in names and wheel.name.startswith(f"field_tally-{VERSION}-")
    assert not [name for name in names if "server" in name.split("/")]
    assert "tally = fieldtally.cli:main" in next(
        (tmp_path / "there" / name).read_text() for name in names if name.endswith("entry_points.txt")
    )
    code = (
        "import sys\nsys.modules['django'] = None\nfrom fieldtally.cli import main\nimport fieldtally\n"
        "print(fieldtally.__file__)\nsys.exit(main(['dose', '--rate', '4 mL/L', '--size', '750 mL']))"
    )
    out = ran(code, cwd=tmp_path, env={"PYTHONPATH": str(tmp_path / "there"), "PATH": ""})
    assert str(tmp_path) in out
    assert "= 3 mL" in out
