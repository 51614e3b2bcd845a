"""The command line: plans and tickets from files."""

import json
from pathlib import Path

import pytest

from keeve.cli import main, plan_file

EXAMPLES = Path(__file__).parents[2] / "examples"


def test_there_is_an_example_for_every_mix() -> None:
    from keeve.catalogue import load_catalogue

    used = {json.loads(path.read_text())["mix"] for path in EXAMPLES.glob("*.json")}
    assert used == set(load_catalogue().mixes)


@pytest.mark.parametrize("path", sorted(EXAMPLES.glob("*.json")), ids=lambda p: p.stem)
@pytest.mark.parametrize("system", ["metric", "us"])
def test_every_example_makes_a_ticket_one_could_mix_from(
    path: Path, system: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert plan_file(path, as_ticket=True, system=system) == 0
    text = capsys.readouterr().out
    for word in ("Load", "Water", "never past", "right:", "Use within", "  1. "):
        assert word in text
    assert "None" not in text


def test_a_plan_is_printed_as_json(capsys: pytest.CaptureFixture[str]) -> None:
    assert plan_file(EXAMPLES / "garden-wall.json", as_ticket=False, system="metric") == 0
    assert json.loads(capsys.readouterr().out)["need"]["net_m3"] == pytest.approx(0.095)


def test_a_bad_sheet_is_said_in_words(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    sheet = {
        "mix": "concrete-1-2-4",
        "shapes": [{"kind": "bored_hole", "diameter_mm": 10, "depth_mm": 0, "post_mm": 50}],
    }
    path = tmp_path / "sheet.json"
    path.write_text(json.dumps(sheet))
    assert plan_file(path, as_ticket=True, system="metric") == 2
    assert "shapes.0.depth_mm: A size must be more than nothing" in capsys.readouterr().err
    path.write_text(json.dumps(sheet | {"shapes": [{"kind": "known", "volume_l": 5}], "mix": "moon-dust"}))
    assert plan_file(path, as_ticket=True, system="metric") == 2
    assert "mix: There is no mix called" in capsys.readouterr().err
    assert plan_file(tmp_path / "none.json", as_ticket=True, system="metric") == 2


def test_the_doctor_speaks_plainly(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr("sys.argv", ["keeve", "doctor"])
    main()
    text = capsys.readouterr().out
    assert "PostgreSQL" in text
    assert "Python" in text
