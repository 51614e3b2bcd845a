"""Each test of the hand is drawn in three states: at Mix, at the mixer, in the book and on paper."""

from typing import get_args

import pytest
from fastapi.testclient import TestClient
from jinja2 import Environment

from keeve.catalogue import load_catalogue
from keeve.core.procedures.consistency import TEST_OF_FAMILY, FieldTest
from keeve.core.ticket.ticket import Look, TicketTarget
from keeve.web.pages.render import environment_in
from keeve.words.reader import METRIC
from tests.prose import PROSE
from tests.web.test_pages import keep, new_job
from tests.web.test_paper import SHEET

TESTS: tuple[FieldTest, ...] = get_args(FieldTest)
STATES = ("dry", "right", "wet")


@pytest.fixture(scope="module")
def pages() -> Environment:
    return environment_in("en")


def picture(pages: Environment, test: str, state: str) -> str:
    text = '{% from "shared/states.html" import state_picture with context %}{{ state_picture(test, state) }}'
    return pages.overlay(autoescape=True).from_string(text).render(test=test, state=state, reader=METRIC)


def test_every_mix_is_judged_by_a_test_that_is_drawn() -> None:
    mixes = load_catalogue().mixes.values()
    assert [mix.key for mix in mixes if mix.field_test is None] == []
    looked_at = {step.drawn for mix in mixes for made in mix.procedures.values() for step in made.steps}
    assert {mix.field_test for mix in mixes} | (looked_at - {None}) == set(TESTS)
    assert set(TEST_OF_FAMILY) == {mix.family for mix in mixes}


def test_no_two_pictures_are_the_same_and_each_state_shows_the_mix(pages: Environment) -> None:
    drawn = {(test, state): picture(pages, test, state) for test in TESTS for state in STATES}
    alike = [("snowball", "hemp ball")]  # the same hands, other stuff in them
    for one, other in alike:
        for state in STATES:
            assert drawn[one, state] != drawn[other, state]  # type: ignore[index] # by the hatch
    for (test, state), svg in drawn.items():
        assert "url(#h-" in svg, (test, state)
        assert "@" not in svg, (test, state)
        assert "&lt;" not in svg, (test, state)
    assert len(set(drawn.values())) == 3 * len(TESTS)


def test_what_is_wrong_is_told_without_colour(pages: Environment) -> None:
    """Dry breaks into crumbs or stays as it was cut, wet shows its water: in no state of both."""
    for test in TESTS:
        assert "st-crumb" in picture(pages, test, "dry")
        assert "st-crumb" not in picture(pages, test, "right")
        wet = picture(pages, test, "wet")
        assert "st-water" in wet or "st-wave" in wet


def test_the_states_stand_where_they_are_needed(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    keep(client, token, job, **SHEET)
    for page in (f"{job}/mix", f"{job}/loads", "/book/concrete-1-2-4"):
        html = client.get(page).text
        assert html.count('<svg class="state ') == 3, page
        assert PROSE["runs-back-into-the"] in html
    client.post(f"{job}/begin", data={"token": token})
    html = client.get(f"{job}/mixer").text
    assert [f'class="state {state}"' in html for state in STATES] == [True] * 3


def test_a_ticket_of_before_says_its_states_without_pictures(pages: Environment) -> None:
    look = Look.model_validate({"test": "Squeeze it.", "dry": "Crumbs.", "right": "Holds.", "wet": "Drips.",
                                "targets": [], "drawn": None})  # fmt: skip
    text = '{% from "shared/states.html" import states with context %}{{ states(look, look.drawn) }}'
    html = pages.from_string(text).render(look=look, reader=METRIC)
    assert "<svg" not in html
    assert [words in html for words in ("Squeeze it.", "Crumbs.", "Holds.", "Drips.")] == [True] * 4


GOAL = {"use": "walls", "measure": "slump", "low": 50, "high": 100, "unit": "mm", "source": "made up"}


@pytest.mark.parametrize(
    ("goal", "drawn"),
    [
        # The cone is 88 high on the drawing for 300 mm: 50 to 100 mm down is 14.7 wide, from 14 + 14.7.
        (GOAL, '<rect x="112" y="28.7" width="26" height="14.7"'),
        # 110 % over a mould of 100 mm is 210 mm across, 150 % is 250 mm, which fills the 104 that are there.
        (
            GOAL | {"measure": "flow", "low": 110, "high": 150, "unit": "%"},
            f'r="{104 / 250 * 105:.1f}" class="st-ghost"',
        ),
        (GOAL | {"measure": "slump flow", "low": 650, "high": 800}, f'r="{104 / 800 * 325:.1f}" class="st-ghost"'),
    ],
)
def test_what_is_measured_is_drawn_to_scale(pages: Environment, goal: dict[str, object], drawn: str) -> None:
    text = '{% from "shared/measured.html" import target_picture with context %}{{ target_picture(goal, "stone") }}'
    html = pages.overlay(autoescape=True).from_string(text)
    svg = html.render(goal=TicketTarget.model_validate(goal), reader=METRIC)
    assert drawn in svg
    assert "url(#h-stone)" in svg


def test_the_cone_slumps_as_far_as_the_mix_is_for(pages: Environment) -> None:
    text = '{% from "shared/states.html" import slump_of with context %}{{ slump_of(goals)|float }}'
    wide = TicketTarget.model_validate(GOAL | {"low": 25})
    told = [
        pages.from_string(text).render(goals=goals).strip()
        for goals in ([TicketTarget.model_validate(GOAL)], [TicketTarget.model_validate(GOAL), wide], [])
    ]
    assert told == ["75.0", "62.5", "75.0"]


def test_how_it_is_turned_is_drawn_at_its_step(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    keep(client, token, job, **(SHEET | {"mix": "thin-panel", "mixer": "paddle-bucket"}))
    client.post(f"{job}/begin", data={"token": token})
    html = client.get(f"{job}/mixer").text
    assert html.count("<figcaption>Full speed") >= 2
    assert html.count("<figcaption>Slow") >= 1
