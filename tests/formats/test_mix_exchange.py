"""Mixes handed on and taken in again."""

import json

import pytest
from fastapi.testclient import TestClient
from pydantic import ValidationError

from keeve.catalogue import JobSheet, load_catalogue, plan_sheet
from keeve.core.message.errors import faults_of
from keeve.core.message.said import plain
from keeve.formats.writing.mix_exchange import mix_schema, read_mix, write_mix
from tests.prose import PROSE

MIXES = load_catalogue().mixes


@pytest.mark.parametrize("mix", MIXES.values(), ids=lambda m: m.key)
def test_a_mix_comes_back_as_it_went(mix) -> None:
    assert read_mix(write_mix(mix)) == mix


def test_a_mix_of_ones_own_is_planned(client: TestClient) -> None:
    document = client.get("/api/mixes/cement-mortar-1-3").json()
    document["mix"]["key"] = "own"
    document["mix"]["basis"]["parts"][1]["parts"] = 3.5
    own = {"shapes": [{"kind": "known", "volume_l": 50}], "mix": document["mix"]}
    answer = client.post("/api/plan", json=own)
    assert answer.status_code == 200
    lean = answer.json()["cards"][0]
    usual = plan_sheet(JobSheet.model_validate(own | {"mix": "cement-mortar-1-3"})).proportions
    assert lean["doses"][0]["dry_kg"] / lean["volume_m3"] < usual.constituents[0].dry_kg_m3


@pytest.mark.parametrize("change", [{"keeve_mix": 2}, {"mix": {}}, {"extra": 1}])
def test_another_version_or_half_a_file_is_refused(change) -> None:
    document = json.loads(write_mix(MIXES["pervious"])) | change
    with pytest.raises(ValidationError, match=r"keeve_mix|Field required|extra"):
        read_mix(json.dumps(document))


def test_shares_that_do_not_add_up_are_refused_in_words() -> None:
    document = json.loads(write_mix(MIXES["thin-panel"]))
    document["mix"]["basis"]["cementitious"][1]["ratio"] = 0.2
    with pytest.raises(ValidationError) as caught:
        read_mix(json.dumps(document))
    assert PROSE["add-up-to-110"] in plain(faults_of(caught.value)[0].sentence)


@pytest.mark.parametrize("density", [0, 26500, -1])
def test_a_density_ten_times_off_is_refused(density: float) -> None:
    document = json.loads(write_mix(MIXES["cement-mortar-1-3"]))
    document["mix"]["basis"]["parts"][0]["material"]["particle_density_kg_m3"] = density
    with pytest.raises(ValidationError) as caught:
        read_mix(json.dumps(document))
    assert caught.value.errors()[0]["loc"][-1] == "particle_density_kg_m3"


def test_the_schema_describes_every_basis(client: TestClient) -> None:
    schema = client.get("/api/mix-schema").json()
    assert schema == mix_schema()
    ways = [schema["$defs"][way["$ref"].rsplit("/", 1)[1]] if "$ref" in way else way
            for way in schema["$defs"]["Mix"]["properties"]["basis"]["oneOf"]]  # fmt: skip
    said = {way["properties"]["basis"]["const"] for way in ways}
    assert said == {
        "volume parts", "mass parts", "ratios", "designed", "premix bag", PROSE["powder-and-water"], PROSE["powder-by-shop-volume"],
        PROSE["powder-by-islands"], "kit", "bio-aggregate",
    }  # fmt: skip
    assert len(client.get("/api/mixes").json()) == len(MIXES)
    assert client.get("/api/mixes/nothing").status_code == 404
