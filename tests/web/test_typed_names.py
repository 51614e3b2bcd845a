"""What a person typed is never looked up as a message: a job called by a word of ours is that in every language."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from keeve.words.made_up import accented
from keeve.words.putting import translated
from keeve.words.reader import Reader
from tests.conftest import slab
from tests.web.test_pages import PAGE, keep, new_job

WORD = "Not here"
"""A message of ours that stands on none of these pages."""


def typed_everywhere(client: TestClient, token: str) -> list[str]:
    """Give the name to all that can have one; returns the pages to look at."""

    def post(path: str, **data: Any) -> str:
        answer = client.post(path, data=data | {"token": token}, follow_redirects=False)
        assert answer.status_code == 303, answer.text
        return str(answer.headers["location"]).split("127.0.0.1")[-1].removeprefix("http://testserver")

    def put(path: str, sheet: dict[str, Any]) -> None:
        body = {"sheet": sheet, "base": {}, "version": 1}
        assert client.put(path, json=body, headers={"x-keeve-token": token}).status_code == 200

    mix = post("/book/concrete-1-2-4/copy").split("/")[-2]
    put(f"/book/{mix}/entry", {"name": WORD, "use": WORD, "materials": {"sharp-sand": {"name": WORD}}})
    pail = post("/yard", name=WORD, use="measure").split("/")[-1]
    put(f"/yard/{pail}/entry", {"name": WORD, "use": "measure", "depth_mm": "300", "top_mm": "260"})
    scale = post("/yard", name=WORD, use="scale_bench").split("/")[-1]
    put(f"/yard/{scale}/entry", {"name": WORD, "use": "scale_bench", "carries_kg": "30", "step_kg": "0.02"})
    can = post("/book/own/admixtures", name=WORD).split("/")[-1]
    label = {
        "name": WORD,
        "form": "liquid",
        "density_kg_l": "1.1",
        "solids_percent": "30",
        "least": "200",
        "most": "500",
    }
    put(f"/book/own/admixtures/{can}/entry", label | {"unit": "mL/100 kg", "when": "in the water"})
    sand = post("/book/own/sands", name=WORD).split("/")[-1]
    rows = [{"sieve_mm": mm, "first": grams} for mm, grams in (("4.75", "10"), ("1.18", "300"), ("0.3", "500"))]
    put(f"/book/own/sands/{sand}/entry", {"name": WORD, "envelope": "c33-fine", "first_name": WORD, "rows": rows})
    job = new_job(client, token)
    keep(client, token, job, job=WORD, mix=mix, shapes=[slab(note=WORD, group=WORD)], gauges=[pail],
         mixer="drum-site")  # fmt: skip
    post(f"{job}/begin")
    return [
        "/", f"/book/own/admixtures/{can}", "/book", f"/book/{mix}", f"/yard/{pail}", "/yard", "/book/own/admixtures", "/book/own/sands",
        f"/book/own/sands/{sand}", *(f"{job}/{one}" for one in ("measure", "mix", "loads", "mixer", "look-back")),
    ]  # fmt: skip


@pytest.mark.parametrize("language", ["en", "en-XA"])
def test_a_name_that_is_a_message_of_ours_stays_as_it_was_typed(client: TestClient, token: str, language: str) -> None:
    assert accented(WORD) == translated(WORD, Reader(language="en-XA"))  # it is a message, and has a translation
    pages = typed_everywhere(client, token)
    client.cookies.set("keeve_language", language)
    for path in pages:
        html = client.get(path, headers=PAGE).text
        assert WORD in html, path
        assert accented(WORD) not in html, path
