"""Station 5 and the run: what the loads tell of the sand, drawn and said; few loads, many, and none."""

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

from keeve.core.lessons.evenness import individuals
from keeve.core.lessons.learning import HeapEvent, Learning, learn
from keeve.core.run.folding import fold
from keeve.web.drawings.sand import draw_even, draw_sand
from keeve.words.reader import METRIC, US
from tests.core.lessons.test_learning import TICKET, day
from tests.prose import PROSE
from tests.web.test_runs import Yard

SLABS: dict[str, Any] = {"shapes": [{"kind": "known", "volume_l": "2000 L"}]}


def mixed(client: TestClient, token: str, loads: int) -> Yard:
    yard = Yard(client, token, **SLABS)
    yard.begin()
    for number in range(loads):
        yard.phone.mix(number * 15, 9.0 + 0.1 * (number % 3), slot=number)
    yard.send()
    return yard


def test_the_sand_and_the_next_water_are_said_and_drawn(client: TestClient, token: str) -> None:
    yard = mixed(client, token, 4)
    html = client.get(f"{yard.job}/look-back").text
    assert PROSE["the-sand-through-the"] in html
    assert PROSE["the-next-load-wants"] in html
    assert html.count('class="lb-poured"') == 4 + 1  # one stands in the key


def test_two_hands_are_set_beside_each_other(client: TestClient, token: str) -> None:
    yard = Yard(client, token, **SLABS)
    yard.begin()
    for number in range(12):
        yard.phone.name = "ab12.1" if number % 2 else "cd34.1"
        yard.phone.mix(number * 15, 9.0 if number % 2 else 9.9, slot=number)
    yard.send()
    html = re.sub(r"<[^>]+>", " ", client.get(f"{yard.job}/look-back").text)
    assert "By phone" in html
    assert "By mixer" not in html  # there is one
    one, other = (re.search(rf"phone {name}\s+(\d+)\s+([\d.]+) (m?L) (more|less)", html) for name in ("ab12", "cd34"))
    assert one is not None
    assert other is not None
    signed = [
        float(found[2]) / (1000 if found[3] == "mL" else 1) * (1 if found[4] == "more" else -1)
        for found in (one, other)
    ]
    assert signed[1] - signed[0] == pytest.approx(0.9, abs=0.35)  # what is expected follows both


def test_rain_told_in_the_yard_stands_on_the_drawing(client: TestClient, token: str) -> None:
    yard = mixed(client, token, 3)
    yard.post("/before/happened", kind="rain")
    html = client.get(f"{yard.job}/look-back").text
    assert html.count("lb-event") == 1
    (told,) = yard.run()["heap_events"]  # the page beside the mixer knows it
    assert told["kind"] == "rain"
    sure = re.search(r"give or take (\d+\.\d)", html)
    assert sure is not None
    assert float(sure[1]) >= 1.0  # nobody knows any more


def test_enough_loads_make_a_chart_and_a_strange_one_is_named(client: TestClient, token: str) -> None:
    yard = Yard(client, token, **SLABS)
    yard.begin()
    for number in range(14):
        yard.phone.mix(number * 15, 12.0 if number == 10 else 9.2 + 0.1 * (number % 2), slot=number)
    yard.send()
    html = client.get(f"{yard.job}/look-back").text
    assert PROSE["how-even-it-was"] in html
    assert re.search(PROSE["load-11-took-more"], html)


def test_a_bag_has_no_sand_to_tell_of(client: TestClient, token: str) -> None:
    yard = Yard(client, token, mix="concrete-bag-25kg", moisture_percent={})
    yard.begin()
    yard.phone.mix(0, 2.0)
    yard.send()
    assert PROSE["the-sand-through-the"] not in client.get(f"{yard.job}/look-back").text


def many(loads: int, *events: HeapEvent) -> Learning:
    phone = day(*(5 + (n % 5) * 0.2 for n in range(loads)))
    return learn(fold({1: TICKET}, phone.events), {1: TICKET}, events)


@pytest.mark.parametrize("loads", [1, 3, 30, 300])
@pytest.mark.parametrize("reader", [METRIC, US])
def test_the_drawings_hold_few_loads_and_many(loads: int, reader: Any) -> None:
    learning = many(loads)
    sand = draw_sand(learning, 1.06 if reader.us else 1.0)
    assert sand is not None
    assert len(sand.poured) == loads
    assert all(54 < one.x < sand.width and 0 <= one.y <= 150 for one in sand.poured)
    assert sum(one.said for one in sand.poured) <= 62
    assert all(later.x - one.x >= 15.9 for one, later in zip(sand.poured, sand.poured[1:], strict=False))
    even = draw_even(individuals([one.poured_l for one in learning.loads]), tuple(range(loads)))
    assert (even is None) == (loads == 1)
