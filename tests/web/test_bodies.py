"""Whatever a request carries, the answer is words: no trace, nothing kept that could not be shown again."""

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient

from keeve.core.measure.reading import read_volume_l
from keeve.core.message.errors import UnitError
from keeve.core.message.letters import harmless
from keeve.web.edge.bodies import MOST_DEEP, fault_of
from tests.prose import PROSE

SLAB = {"kind": "known", "volume_l": 1}
BODIES = {
    "half a letter": '{"job":"\\ud800x","shapes":[],"mix":"c270-n"}',
    "nothing as a letter": '{"job":"a\\u0000b","shapes":[]}',
    "no number": '{"job":"x","waste_percent":NaN,"shapes":[]}',
    "endless": '{"job":"x","waste_percent":1e999,"shapes":[]}',
    "deeper than can be read": '{"job":"x","changes":{"a":' + "[" * 3000 + "]" * 3000 + "}}",
    "deep": '{"job":"x","changes":' + '{"a":' * 500 + "1" + "}" * 500 + "}",
    "many shapes": json.dumps({"job": "x", "shapes": [SLAB] * 3000}),
    "many keys": json.dumps({"job": "x", "moisture_percent": {str(i): 1 for i in range(20_000)}}),
    "turned round": '{"job":"\\u202eabc","place":"\\u2066x","shapes":[]}',
    "a bell": '{"job":"abc\\u0007","shapes":[]}',
}
ODD = {
    "raised": {"shapes": [{"kind": "known", "volume_l": "²"}, {"kind": "known", "volume_l": "1²"}], "mix": "c270-n"},
    "other digits": {"shapes": [{"kind": "slab", "length_mm": "٣", "width_mm": "1e400", "depth_mm": "௧"}]},
    "a mix that is none": {"mix": {"a": 1}, "shapes": []},
    "changes of no kind": {"mix": "c270-n", "changes": {"schools": [1, 2], "pack_kg": {}}, "shapes": [SLAB]},
    "words for tables": {
        "mix": "c270-n", "temperatures": "abc", "struck_kg": [1], "moisture_percent": "x", "admixtures": [1],
        "gauges": {"a": 1}, "shapes": [SLAB],
    },
    "numbers for names": {"job": 5, "place": [1], "mix": 7, "shapes": []},
}  # fmt: skip


@pytest.fixture
def job(client: TestClient, token: str) -> str:
    made = client.post("/jobs", data={"name": "Pad", "token": token}, follow_redirects=False)
    return "/jobs/" + made.headers["location"].split("/jobs/")[1].split("/")[0]


def addresses(job: str) -> list[tuple[str, str, bool]]:
    views = [("POST", f"{job}/answer?view={view}", False) for view in ("measure", "mix", "loads")]
    return [("POST", "/api/plan", False), *views, ("PUT", f"{job}/sheet", True)]


def send(client: TestClient, token: str, method: str, address: str, body: str) -> Any:
    headers = {"content-type": "application/json", "x-keeve-token": token}
    return client.request(method, address, content=body.encode("utf-8", "surrogatepass"), headers=headers)


@pytest.mark.parametrize("name", list(BODIES))
def test_what_cannot_be_kept_is_refused_in_words(client: TestClient, token: str, job: str, name: str) -> None:
    for method, address, wrapped in addresses(job):
        body = f'{{"sheet":{BODIES[name]}}}' if wrapped else BODIES[name]
        answer = send(client, token, method, address, body)
        assert answer.status_code == 422, address
        assert answer.json()["faults"][0]["sentence"]
        assert "content-security-policy" in answer.headers
    for page in ("/", f"{job}/measure", f"{job}/mix", f"{job}/loads", f"{job}/mixer", f"{job}/look-back"):
        assert client.get(page).status_code == 200


@pytest.mark.parametrize("name", list(ODD))
def test_what_is_merely_odd_is_kept_and_every_page_shows(client: TestClient, token: str, job: str, name: str) -> None:
    body = json.dumps(ODD[name])
    for method, address, wrapped in addresses(job):
        answer = send(client, token, method, address, f'{{"sheet":{body}}}' if wrapped else body)
        assert answer.status_code in (200, 422), address
    for page in ("/", f"{job}/measure", f"{job}/mix", f"{job}/loads", f"{job}/mixer", f"{job}/look-back"):
        assert client.get(page).status_code == 200, page


@pytest.mark.parametrize("name", ["a\x00b", "a\x1bb", "\u202eabc"])
def test_a_form_with_such_letters_is_refused_in_words(client: TestClient, token: str, name: str) -> None:
    answer = client.post("/jobs", data={"name": name, "token": token}, headers={"accept": "text/html"})
    assert answer.status_code == 422
    assert PROSE["cannot-be-kept"] in answer.text


def test_a_raised_figure_is_no_figure() -> None:
    assert read_volume_l("2 m³") == 2000
    for typed in ("²", "1²", "3³ m"):
        with pytest.raises(UnitError, match=r"cannot be read|unit"):
            read_volume_l(typed)


def test_ordinary_letters_pass() -> None:
    for text in ("Mörtel für die Türe", "½ of 3½", "Ἀθῆναι", "砂", "line\nline\ttab", "5\u2063mm", "a\u202fb"):
        assert harmless(text)
    nest: Any = 1
    for _ in range(MOST_DEEP - 1):
        nest = [nest]
    assert fault_of(nest) is None
    assert fault_of([nest]) is None
    assert fault_of([[nest]]) is not None


def test_what_is_too_long_is_refused_with_the_same_headers(client: TestClient, token: str, job: str) -> None:
    answer = send(client, token, "PUT", f"{job}/sheet", '{"sheet":{"job":"' + "x" * 1_100_000 + '"}}')
    assert answer.status_code == 413
    assert "content-security-policy" in answer.headers
