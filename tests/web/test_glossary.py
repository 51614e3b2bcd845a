"""The words of the trade are explained where they stand, and all on one page."""

import re

import pytest
from fastapi.testclient import TestClient

from keeve.catalogue import load_catalogue
from keeve.core.message.said import plain
from tests.prose import PROSE
from tests.web.test_pages import keep, new_job


def test_every_word_says_what_it_is_in_one_sentence(client: TestClient) -> None:
    words = load_catalogue().glossary.values()
    assert len(words) >= 35  # the trade's list has so many
    for one in words:
        said = plain(one.sentence)
        assert said.endswith("."), one.key
        assert said.count(". ") == 0, one.key
        assert len(said) < 160, one.key
    html = client.get("/words").text
    assert all(f'id="{one.key}"' in html for one in words)


@pytest.mark.parametrize(("station", "word"), [("measure", "Take-off"), ("mix", "Bulking"), ("loads", "Struck")])
def test_a_word_is_explained_by_a_tap_where_it_stands(client: TestClient, token: str, station: str, word: str) -> None:
    job = new_job(client, token)
    keep(client, token, job)
    html = client.get(f"{job}/{station}").text
    found = re.search(rf'class="trade-word" popovertarget="([^"]+)">{word}</button>', html)
    assert found is not None
    assert f'<span popover id="{found[1]}"' in html


def test_the_run_explains_its_words_too(client: TestClient, token: str) -> None:
    job = new_job(client, token)
    keep(client, token, job)
    client.post(f"{job}/begin", data={"token": token})
    assert PROSE["to-add-water-to"] in client.get(f"{job}/mixer").text
