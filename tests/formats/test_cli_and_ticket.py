"""The command line: plans and tickets from files."""

import json
from pathlib import Path

import pytest

from keeve.cli import main
from keeve.formats.writing.papers import list_mixes, plan_file, sand_file, show_mix
from keeve.words.reader import METRIC, US, Reader
from tests.prose import PROSE

EXAMPLES = Path(__file__).parents[2] / "examples"


def test_there_is_an_example_for_every_mix() -> None:
    from keeve.catalogue import load_catalogue

    used = {json.loads(path.read_text())["mix"] for path in EXAMPLES.glob("*.json")}
    assert used == set(load_catalogue().mixes)


@pytest.mark.parametrize("path", sorted(EXAMPLES.glob("*.json")), ids=lambda p: p.stem)
@pytest.mark.parametrize("reader", [METRIC, US])
def test_every_example_makes_a_ticket_one_could_mix_from(
    path: Path, reader: Reader, capsys: pytest.CaptureFixture[str]
) -> None:
    assert plan_file(path, as_ticket=True, reader=reader) == 0
    text = capsys.readouterr().out
    for word in ("Load", "Water", "never past", "right:", "Use within", "  1. "):
        assert word in text
    assert "None" not in text


def test_a_plan_is_printed_as_json(capsys: pytest.CaptureFixture[str]) -> None:
    assert plan_file(EXAMPLES / "garden-wall.json", as_ticket=False, reader=METRIC) == 0
    assert json.loads(capsys.readouterr().out)["net_m3"] == pytest.approx(0.095)


def test_a_bad_sheet_is_said_in_words(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    sheet = {
        "mix": "concrete-1-2-4",
        "shapes": [{"kind": "bored_hole", "diameter_mm": 10, "depth_mm": 0, "post_mm": 50}],
    }
    path = tmp_path / "sheet.json"
    path.write_text(json.dumps(sheet))
    assert plan_file(path, as_ticket=True, reader=METRIC) == 2
    assert "shapes.0.depth_mm: A size must be more than nothing" in capsys.readouterr().err
    path.write_text(json.dumps(sheet | {"shapes": [{"kind": "known", "volume_l": 5}], "mix": "moon-dust"}))
    assert plan_file(path, as_ticket=True, reader=METRIC) == 2
    assert PROSE["mix-there-is-no"] in capsys.readouterr().err
    assert plan_file(tmp_path / "none.json", as_ticket=True, reader=METRIC) == 2


def test_the_doctor_speaks_plainly(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setattr("sys.argv", ["keeve", "doctor"])
    main()
    text = capsys.readouterr().out
    assert "PostgreSQL" in text
    assert "Python" in text


def test_mixes_are_found_by_their_use(capsys: pytest.CaptureFixture[str]) -> None:
    assert list_mixes("laying bricks") == 0
    (line,) = capsys.readouterr().out.splitlines()
    assert line.startswith("bricklaying-mortar-1-4")


def test_a_mix_is_printed_to_read_and_to_hand_on(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert show_mix("concrete-1-2-4", as_file=False, reader=METRIC) == 0
    card = capsys.readouterr().out
    for words in ("One bag of 25.0 kg makes", "2 pails", "4 pails", "165 L to 195 L"):
        assert words in card
    assert show_mix("stucco-base", as_file=False, reader=US) == 0
    assert "94.0 lb" in capsys.readouterr().out
    assert show_mix("concrete-1-2-4", as_file=True, reader=METRIC) == 0
    path = tmp_path / "ours.json"
    path.write_text(capsys.readouterr().out)
    assert show_mix(str(path), as_file=False, reader=METRIC) == 0
    assert capsys.readouterr().out == card
    for wrong in ("moon-dust", str(tmp_path / "none.json"), str(EXAMPLES / "garden-wall.json")):
        assert show_mix(wrong, as_file=False, reader=METRIC) == 2
        assert wrong[:20] in capsys.readouterr().err


def test_two_sands_are_blended_from_a_file(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = EXAMPLES / "sands" / "pit-and-dune.json"
    assert sand_file(path, as_json=False) == 0
    text = capsys.readouterr().out
    # By hand: summed percents kept make 3.86 and 1.78.
    for words in ("3.86", "1.78", "Best blend", "Blend: inside", "Pit sand: outside"):
        assert words in text
    assert sand_file(path, as_json=True) == 0
    assert json.loads(capsys.readouterr().out)["second"]["fineness"]["result"] == pytest.approx(1.78)
    bad = tmp_path / "sheet.json"
    bad.write_text('{"rows": []}')
    assert sand_file(bad, as_json=False) == 2
    assert PROSE["nothing-was-weighed-yet"] in capsys.readouterr().err
