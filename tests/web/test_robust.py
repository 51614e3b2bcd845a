"""Whatever is sent, the answer is a plan or sentences; and the log is told in words."""

import json
import math
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from keeve.catalogue import load_catalogue
from keeve.catalogue.trying import pruned, try_plan
from keeve.core.records.review import review
from keeve.core.run.folding import fold
from keeve.web.app import make_app
from keeve.web.edge.settings import Settings
from keeve.web.stations.look_back.routes import event_words, sentences
from keeve.words.reader import METRIC
from tests.conftest import Ticketer
from tests.taps import Phone

CATALOGUE = load_catalogue()
BEGIN = datetime(2026, 9, 14, 8, 0, tzinfo=UTC)


@pytest.fixture(scope="module")
def api() -> Iterator[TestClient]:
    """The app without a database: planning needs none."""
    settings = Settings(database_url="postgresql+psycopg://127.0.0.1:1/none", secret="for tests")
    with TestClient(make_app(settings), base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
        yield client


SCALARS = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(10**12), 10**12),
    st.floats(allow_nan=False, allow_infinity=False),
    st.sampled_from(
        ["", "2 1/2 in", "1.2m", "-3", "70 plaster : 100 water", "½", "1/0", "9" * 400, "6'4\"", "wet", "\u0000"]
    ),
)
SHAPE = st.one_of(
    SCALARS,
    st.fixed_dictionaries(
        {"kind": st.sampled_from(["slab", "bored_hole", "cylinder", "mould", "known", "dome"])},
        optional=dict.fromkeys(("length_mm", "width_mm", "depth_mm", "diameter_mm", "height_mm", "post", "post_mm", "volume_l", "count", "share_percent", "waste_percent", "container", "model", "note"), SCALARS),
    ),
)  # fmt: skip
SHEETS = st.fixed_dictionaries(
    {"shapes": st.lists(SHAPE, max_size=4), "mix": st.one_of(st.sampled_from(list(CATALOGUE.mixes)), SCALARS)},
    optional={
        "mixer": st.one_of(st.sampled_from(list(CATALOGUE.mixers)), SCALARS, st.fixed_dictionaries({"key": SCALARS})),
        "changes": st.dictionaries(
            st.sampled_from(["water_to_powder", "yield_l", "mean_mpa", "sand_state", "x"]), SCALARS
        ),
        "moisture_percent": st.dictionaries(st.sampled_from(["sharp-sand", "moon"]), SCALARS),
        "strategy": SCALARS,
        "place_l_min": SCALARS,
        "admixtures": st.lists(st.fixed_dictionaries({"admixture": SCALARS, "dose": SCALARS}), max_size=2),
        "jug": SCALARS,
        "gauges": st.lists(SCALARS, max_size=2),
    },
)


@given(sheet=SHEETS)
def test_any_sheet_gets_a_plan_or_sentences(api: TestClient, sheet: dict[str, Any]) -> None:
    answer = api.post("/api/plan", content=json.dumps(sheet), headers={"content-type": "application/json"})
    assert answer.status_code in (200, 422), answer.text[:300]
    if answer.status_code == 422:
        for fault in answer.json()["faults"]:
            assert fault["sentence"]
            assert "{" not in fault["sentence"].replace("{x}", "")
    else:
        assert all(math.isfinite(load["volume_m3"]) and load["volume_m3"] > 0 for load in answer.json()["loads"])


@given(
    litres=st.floats(0.001, 50_000), mix=st.sampled_from(list(CATALOGUE.mixes)), units=st.sampled_from(["us", "metric"])
)
def test_every_answer_can_be_drawn(api: TestClient, litres: float, mix: str, units: str) -> None:
    sheet = {"shapes": [{"kind": "known", "volume_l": litres}], "mix": mix}
    for view in ("measure", "mix", "loads"):
        answer = api.post(f"/jobs/x/answer?view={view}", json=sheet, headers={"cookie": f"keeve_units={units}"})
        assert answer.status_code in (200, 422), answer.text[:300]
        assert "nan" not in answer.text.lower().replace("finan", "").replace("maintenan", "")


def test_empty_entries_are_entries_not_filled_in() -> None:
    typed = {"a": "", "b": None, "c": {"d": "", "e": 0}, "f": ["", 1, None, {"g": ""}]}
    assert pruned(typed) == {"c": {"e": 0}, "f": [1, {}]}


def test_a_sheet_that_cannot_be_says_why() -> None:
    tried = try_plan({"shapes": [{"kind": "known", "volume_l": "5"}], "mix": "moon-dust"}, CATALOGUE)
    assert tried.plan is None
    assert tried.mix is None
    assert tried.faults[0].field == "mix"


@pytest.mark.parametrize(
    ("kind", "more", "words"),
    [
        ("poured", {"litres": 1.5}, "water, 1.50 L"),
        ("poured", {"litres": 1.5, "over": True}, "past the highest on purpose"),
        ("dry_added", {"dry_kg": 2}, "dry mix added, 2.00 kg"),
        ("judged", {"verdict": "wet"}, "looked: too wet"),
        ("step_done", {"step": 2}, "step 3 done"),
        ("step_back", {"step": 2}, "step 3 once more"),
        ("thrown_away", {}, "thrown away"),
        ("one_more", {"ticket": 1}, "one more load"),
        ("settled", {"about": "x", "twice": False}, "poured once"),
    ],
)
def test_the_log_is_told_in_words(kind: str, more: dict[str, Any], words: str) -> None:
    phone = Phone()
    phone.tap(1, kind, **more)
    assert words in event_words(phone.events[0], METRIC)


@pytest.mark.parametrize(
    ("poured", "words"), [(3.5, "as the ticket said"), (3.92, "12 % more water"), (3.08, "12 % less water")]
)
def test_looking_back_teaches_the_next_load(ticketed: Ticketer, poured: float, words: str) -> None:
    # Two bags at 1.75 L, and no more go into that drum, are 3.5 L to pour.
    ticket = ticketed(mix="concrete-bag-25kg", mixer="drum-small", shapes=[{"kind": "known", "volume_l": 50}])
    phone = Phone(mixer=ticket.mixer.key)
    phone.mix(0, poured)
    tickets = {1: ticket}
    assert words in " ".join(sentences(review(fold(tickets, phone.events), tickets), METRIC, heaped=True))
    assert sentences(review(fold(tickets, []), tickets), METRIC, heaped=True) == []


def test_the_log_is_one_line_a_request_whatever_the_address_holds(
    client: TestClient, caplog: pytest.LogCaptureFixture
) -> None:
    caplog.set_level("INFO", logger="keeve.requests")
    client.get("/nothing%0Alevel=error%20event=forged%22")
    (line,) = [record.getMessage() for record in caplog.records if record.name == "keeve.requests"]
    assert "\n" not in line
    assert "event=request" in line
    assert 'level=error event=forged\\"" status=404' in line  # inside the quotes of the path
