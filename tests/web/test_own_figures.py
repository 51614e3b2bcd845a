"""A crew's own figures: told by its loads, used by one tap in every open and new job, taken back by another."""

from typing import Any

from fastapi.testclient import TestClient

from keeve.catalogue import load_catalogue
from tests.prose import PROSE
from tests.web.test_pages import PAGE, keep, new_job
from tests.web.test_runs import Yard

BAG: dict[str, Any] = {"mix": "concrete-bag-25kg", "shapes": [{"kind": "known", "volume_l": "60 L"}]}


def raw(client: TestClient, job: str) -> dict[str, Any]:
    return dict(client.get(f"{job}/raw").json())


def test_what_the_bags_really_filled_is_planned_with_until_the_book_counts_again(
    client: TestClient, token: str
) -> None:
    yard = Yard(client, token, **BAG)
    other = new_job(client, token)
    keep(client, token, other, mixer="drum-site", **BAG)
    assert "Nothing yet" in client.get(f"{yard.job}/own").text
    early = yard.post("/filled", filled="60")
    assert early.status_code == 422
    assert PROSE["nothing-was-made-yet"] in early.text
    assert 'value="60"' in early.text
    yard.begin()
    yard.phone.mix(0, 4.0)
    yard.send()
    card = yard.run()["tickets"]["1"]["cards"][0]
    made_l = card["volume_m3"] * 1000 + 4.0 - card["water"]["pour"]["target"]  # it was mixed stiffer than planned
    assert PROSE["more-than-twice"] in yard.post("/filled", filled="6000").text
    assert PROSE["what-did-they-really"] in yard.post("/filled", filled=" ").text
    assert all(f'value="{wrong}"' in yard.post("/filled", filled=wrong).text for wrong in ("-5", "cat"))
    assert yard.post("/filled", filled=f"{made_l * 0.9:.3f} L").status_code == 303
    page = client.get(f"{yard.job}/own").text
    assert "Seen once" in page
    assert yard.post("/own", what="makes").status_code == 303
    assert abs(raw(client, other)["own"][BAG["mix"]]["makes"] - 0.9) < 1e-3
    assert PROSE["plans-go-by"] in client.get(f"{yard.job}/own").text
    later = new_job(client, token)
    assert "own" in raw(client, later)
    assert yard.post("/own", what="makes", use="book").status_code == 303
    assert not raw(client, other).get("own")
    assert "own" not in raw(client, new_job(client, token))


def test_too_few_loads_and_what_is_no_figure_are_refused_in_words(client: TestClient, token: str) -> None:
    yard = Yard(client, token, **BAG)
    for what in ("pace", "makes", "x" * 40):
        refused = yard.post("/own", what=what)
        assert refused.status_code == 422
        assert PROSE["too-few-loads"] in refused.text
    keep(client, token, yard.job, mixer="drum-site", own={BAG["mix"]: {"pace": 14.0}}, **BAG)
    assert PROSE["14-0-l-as"] in client.get(f"{yard.job}/loads", headers=PAGE).text
    strange = client.post(
        f"{yard.job}/own", data={"token": token, "what": "pace", "use": "perhaps"}, headers=PAGE, follow_redirects=False
    )
    assert strange.status_code == 422


def test_the_clock_of_a_cement_is_told_by_when_it_stiffens_in_what_air(client: TestClient, token: str) -> None:
    yard = Yard(client, token, mix="cement-mortar-1-3", mixer="drum-site", moisture_percent={"sharp-sand": "5 %"})
    life_min = load_catalogue().mixes["cement-mortar-1-3"].working_life_min
    page = client.get(f"{yard.job}/own").text
    assert PROSE["when-did-a-load"] in page
    for wrong in ({"minutes": "", "air_c": "20"}, {"minutes": "soon", "air_c": "20"}, {"minutes": "-5", "air_c": "20"}):
        refused = yard.post("/stiffened", **wrong)
        assert refused.status_code == 422
        assert f'value="{wrong["minutes"]}"' in refused.text
    # At 30 °C the book's life is half of that at 20: what stiffened after two fifths of it runs at four fifths.
    for air, share in (("30", 0.4), ("20 °C", 0.8)):
        assert yard.post("/stiffened", minutes=f"{life_min * share:g}", air_c=air).status_code == 303
    html = client.get(f"{yard.job}/own").text
    assert "80 %" in html
    assert "Seen 2 times" in html
    assert yard.post("/own", what="clock").status_code == 303
    assert abs(raw(client, yard.job)["own"]["cement-mortar-1-3"]["clock"] - 0.8) < 1e-6
    assert f"Use within {life_min * 0.8:.0f} min" in client.get(f"{yard.job}/loads", headers=PAGE).text
    plaster = Yard(client, token, mix="casting-plaster-70", mixer="paddle-bucket", moisture_percent={})
    assert PROSE["when-did-a-load"] not in client.get(f"{plaster.job}/own").text
    assert plaster.post("/stiffened", minutes="9", air_c="20").status_code == 422
