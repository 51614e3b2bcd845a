"""What a crew has of its own: every kind is begun, tried, kept, copied, put away and put back in the same way."""

from typing import Any, NamedTuple

import pytest
from fastapi.testclient import TestClient

from tests.conftest import slab
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job


class Own(NamedTuple):
    """How one kind is begun, and an entry of it that can be understood."""

    begin: str
    form: dict[str, str]
    entry: dict[str, Any]
    shelf: str
    job: dict[str, Any] | None
    """How a job's sheet names one by its key, where it can."""


SIEVES = [{"sieve_mm": mm, "first": grams} for mm, grams in (("4.75", "10"), ("1.18", "300"), ("0.3", "500"))]
CAN = {"name": "Blue can", "form": "liquid", "density_kg_l": "1.1", "solids_percent": "30", "least": "200", "most": "500",
       "unit": "mL/100 kg", "when": "in the water"}  # fmt: skip
KINDS = {
    "mix": Own("/book/concrete-1-2-4/copy", {}, {"name": "Lock concrete"}, "/book", {"mix": "KEY"}),
    "sand": Own("/book/own/sands", {"name": "Pit sand"},
                {"name": "Pit sand", "envelope": "c33-fine", "rows": SIEVES}, "/book/own/sands", None),
    "vessel": Own("/yard", {"name": "Tin", "use": "measure"},
                  {"name": "Tin", "use": "measure", "depth_mm": "200", "top_mm": "180"}, "/yard", {"gauges": ["KEY"]}),
    "scale": Own("/yard", {"name": "Hook", "use": "scale_hanging"},
                 {"name": "Hook", "use": "scale_hanging", "carries_kg": "40", "step_kg": "0.05"}, "/yard",
                 {"scales": ["KEY"]}),
    "admixture": Own("/book/own/admixtures", {"name": "Blue can"}, CAN, "/book/own/admixtures",
                     {"admixtures": [{"admixture": "KEY", "dose": "300 mL/100 kg"}]}),
    "stock": Own("/stock", {"material": "portland-cement"},
                 {"material": "portland-cement", "pack_kg": "25", "packs": "4"}, "/stock", None),
}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_one_of_each_kind_has_all_its_ways(client: TestClient, token: str, kind: str) -> None:
    own, tokened = KINDS[kind], {"x-keeve-token": token}

    def post(path: str, **data: str) -> Any:
        return client.post(path, data=data | {"token": token}, follow_redirects=False, headers=PAGE)

    def begun(answer: Any) -> str:
        assert answer.status_code == 303
        return str(answer.headers["location"]).removesuffix("/change")

    address = begun(post(own.begin, **own.form))
    key = address.rsplit("/", 1)[1]
    assert client.post(f"{address}/try", json=own.entry, headers=PAGE).status_code == 200
    before = client.get(own.shelf, headers=PAGE).text
    body = {"sheet": own.entry, "base": {}, "version": 1}
    assert client.put(f"{address}/entry", json=body, headers=tokened).json()["version"] == 2
    page = f"{address}/change" if kind == "mix" else address
    assert str(next(iter(own.entry.values()))) in client.get(page, headers=PAGE).text
    copied = begun(post(f"{address}/copy"))
    assert copied != address
    assert client.get(f"{copied}/change" if kind == "mix" else copied, headers=PAGE).status_code == 200
    if own.job is not None:
        named = {name: _with(value, key) for name, value in own.job.items()}
        job = new_job(client, token, "Lock gate")
        keep(client, token, job, **({"job": "Lock gate", "mix": "concrete-1-2-4", "shapes": [slab()]} | named))
        refused = post(f"{address}/away")
        assert refused.status_code == 422
        assert PROSE["it-is-needed-for-lock"] in refused.text
        keep(client, token, job, job="Lock gate", mix="concrete-1-2-4", shapes=[slab()])
    away = post(f"{address}/away")
    assert away.status_code == 303
    shelf = client.get(away.headers["location"], headers=PAGE).text
    assert f"{address.split('127.0.0.1', 1)[-1].removeprefix('http://testserver')}/back" in shelf
    assert PROSE["is-put-away-2"] in shelf
    assert begun(post(f"{address}/back")).endswith(key)
    assert PROSE["is-put-away-2"] not in client.get(away.headers["location"], headers=PAGE).text
    assert before
    lost = address.replace(key, "own-0123456789ab")
    for way in ("away", "back", "copy"):
        assert post(f"{lost}/{way}").status_code == 404


def _with(value: Any, key: str) -> Any:
    if isinstance(value, list):
        return [_with(one, key) for one in value]
    if isinstance(value, dict):
        return {name: _with(one, key) for name, one in value.items()}
    return key if value == "KEY" else value
