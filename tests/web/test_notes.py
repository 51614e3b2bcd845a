"""Notes, photos, temperature traces, beams and what went where: written down on the job's page, on its record, in the file."""

import io
import json
import re
from typing import Any

import pytest
from fastapi.testclient import TestClient
from PIL import Image
from pypdfium2 import PdfDocument
from sqlalchemy.orm import Session

from keeve.catalogue import load_catalogue
from keeve.core.proportions.bases.premix_bag import PremixBag
from tests.prose import PROSE
from tests.web.test_archive import put_in, taken_out, wipe
from tests.web.test_pages import PAGE, keep, new_job
from tests.web.test_proofs import Lab
from tests.web.test_runs import Yard


@pytest.fixture
def lab(client: TestClient, token: str) -> Lab:
    return Lab(client, token)


def write(lab: Lab, path: str, **data: str) -> Any:
    address = f"{lab.yard.job}/{path}"
    return lab.client.post(address, data={"token": lab.token} | data, headers=PAGE, follow_redirects=False)


def photo(size: tuple[int, int] = (640, 480)) -> bytes:
    made = io.BytesIO()
    Image.effect_noise(size, 60).convert("RGB").save(made, "JPEG")
    return made.getvalue()


def send(lab: Lab, content: bytes, **data: str) -> Any:
    files = {"file": ("slump.jpg", content, "image/jpeg")}
    address, form = f"{lab.yard.job}/photo", {"token": lab.token} | data
    return lab.client.post(address, data=form, files=files, headers=PAGE, follow_redirects=False)


def words_of(content: bytes) -> str:
    """Read a PDF back with another library."""
    return " ".join(" ".join(page.get_textpage().get_text_range() for page in PdfDocument(content)).split())


def pictures(lab: Lab) -> list[str]:
    return re.findall(r'<img\s+src="[^"]*?(/jobs/[^"]+\.jpg)"', lab.page())


def test_a_note_is_kept_corrected_and_taken_back_and_its_words_stay(lab: Lab) -> None:
    assert write(lab, "notes", says="Sand darker after the shower", on_load="1").status_code == 303
    html = lab.page()
    assert "Sand darker after the shower" in html
    assert "load 1" in html
    key = re.search(r'name="corrects" value="([^"]+)"', html)
    assert key is not None
    write(lab, "notes", says="Sand paler after the shower", on_load="1", corrects=key[1])
    html = lab.page()
    assert "<s>Sand darker after the shower</s>" in html
    assert html.count('name="corrects"') == 1
    write(lab, "notes", says="", corrects=key[1])
    assert "taken back" in lab.page()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ({"says": "  "}, "A note says something."),
        ({"says": "x", "corrects": "nobody"}, "There is no such note."),
        ({"says": "x", "on_load": "many"}, "cannot be read"),
        ({"says": "x", "on_load": "-3"}, "There is no such load."),
        ({"says": "x", "on_load": "2.5"}, "There is no such load."),
    ],
)
def test_a_note_that_cannot_be_says_why_and_what_was_typed_stays(lab: Lab, data: dict[str, str], says: str) -> None:
    answer = write(lab, "notes", **data)
    assert answer.status_code == 422
    assert says in answer.text
    if data["says"].strip():
        assert f">{data['says']}</textarea>" in answer.text


def test_a_note_of_hostile_words_is_shown_as_words(lab: Lab) -> None:
    write(lab, "notes", says="<script>alert(1)</script> {{ 7*7 }}")
    html = lab.page()
    assert "<script>alert" not in html
    assert "{{ 7*7 }}" in html
    assert write(lab, "notes", says="y" * 501).status_code == 422


def test_a_photo_is_kept_small_shown_and_taken_out(lab: Lab) -> None:
    assert send(lab, photo((2600, 1300)), says="Slump of load 1", on_load="1").status_code == 303
    (address,) = pictures(lab)
    answer = lab.client.get(address)
    assert answer.headers["content-type"] == "image/jpeg"
    assert "immutable" in answer.headers["cache-control"]
    with Image.open(io.BytesIO(answer.content)) as small:
        assert small.size == (1280, 640)
    lab.client.post(address.removesuffix(".jpg") + "/out", data={"token": lab.token})
    assert pictures(lab) == []
    assert lab.client.get(address).status_code == 404


def test_a_photo_of_another_job_or_of_nobody_is_not_handed_out(lab: Lab) -> None:
    send(lab, photo())
    (address,) = pictures(lab)
    other = new_job(lab.client, lab.token)
    assert lab.client.get(f"{other}/photos/{address.rsplit('/', 1)[1]}").status_code == 404
    assert lab.client.get(f"{lab.yard.job}/photos/nothing.jpg").status_code == 404


def test_what_is_no_photo_or_too_large_says_so_and_what_was_typed_stays(lab: Lab) -> None:
    answer = send(lab, b"%PDF-1.7 no photo", says="Slump", on_load="1")
    assert answer.status_code == 422
    assert PROSE["this-is-no-photo"] in answer.text
    assert 'id="photo-says" name="says" value="Slump"' in answer.text
    assert ">Slump</textarea>" not in answer.text
    assert re.search(r'value="1"\s+selected', answer.text)
    assert send(lab, b"\xff\xd8" + bytes(21_000_000)).status_code == 413
    assert send(lab, photo(), on_load="many").status_code == 422
    assert send(lab, photo(), on_load="9" * 30).status_code == 422
    assert pictures(lab) == []


def test_a_job_keeps_so_many_photos_and_no_more(lab: Lab, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("keeve.store.rows.photo_store.MOST_OF_A_JOB", 1)
    send(lab, photo())
    answer = send(lab, photo())
    assert answer.status_code == 422
    assert PROSE["as-many-as-are"] in answer.text


def test_a_trace_of_temperatures_says_how_old_the_cast_is(lab: Lab) -> None:
    lines = "\n".join(f"{h}, 35 °C" for h in range(0, 49, 4))
    assert write(lab, "proofs/trace", trace=lines, label="Cube box", at="2026-09-14 09:00").status_code == 303
    # 48 h at 35 °C: 45 · 48 = 2160 °C·h, as old as 2160 / 30 / 24 = 3.0 days; EC2: exp(0.25 (1 − √(28/3))) = 0.598.
    html = lab.page()
    assert "2160 °C·h" in html
    assert PROSE["as-old-as-3"] in html
    assert PROSE["60-of-its-strength"] in html
    missing = write(lab, "proofs/trace", trace=lines)
    assert missing.status_code == 422
    assert PROSE["when-was-that"] in missing.text
    gap = write(lab, "proofs/trace", trace="0, 20 °C\n17, 20", at="2026-09-14")
    assert "silent" in gap.text
    assert ">0, 20 °C\n17, 20</textarea>" in gap.text


def test_the_curve_goes_through_what_was_pressed_and_a_beam_is_not_on_it(lab: Lab) -> None:
    assert 'class="strength"' not in lab.page()
    for days, mpa in (("7", "23.4"), ("28", "30")):
        key = lab.cast(f"C{days}", due_days=days)
        at = "2026-09-21 09:00" if days == "7" else "2026-10-12 09:00"
        lab.post("result", of=key, found=mpa, by="stress", at=at)
    html = lab.page()
    assert html.count('class="found"') == 2
    assert PROSE["30-0-mpa-at"] in html
    assert "mean of 1 result" in html  # that of seven days is no 28-day result
    lab.post("cast", shape="beam-150", label="B1", at="2026-09-14 09:00")
    beam = re.findall(r'name="of" value="([0-9a-f-]{36})"', lab.page())[-1]
    # 30 kN over a span of 450 mm in the thirds of 150 mm square: 30 000 · 450 / 150³ = 4.0 MPa.
    assert lab.post("result", of=beam, found="30", by="force", at="2026-10-12 09:00").status_code == 303
    html = lab.page()
    assert "4.0 MPa" in html
    assert html.count('class="found"') == 2
    assert "mean of 1 result" in html


def test_what_went_where_stands_on_the_page_on_the_record_and_on_labels(lab: Lab) -> None:
    lab.client.post("/stock", data={"token": lab.token, "material": "portland-cement"}, headers=PAGE)
    html = lab.page()
    assert PROSE["what-went-where"] in html
    assert PROSE["no-delivery-is-written"] in html
    write(lab, "notes", says="Cast before the rain")
    record = lab.client.get(f"{lab.yard.job}/record.pdf")
    told = words_of(record.content)
    assert PROSE["what-went-where"] in told
    assert "Cast before the rain" in told
    labels = lab.client.get(f"{lab.yard.job}/labels.pdf")
    assert "Load 1" in words_of(labels.content)
    empty = lab.client.get(f"{new_job(lab.client, lab.token)}/labels.pdf", headers=PAGE)
    assert empty.status_code == 422
    assert PROSE["nothing-was-cast-yet"] in empty.text


def test_notes_and_photos_go_out_and_come_in_again_to_the_byte(lab: Lab, session: Session) -> None:
    write(lab, "notes", says="Kept", on_load="1")
    send(lab, photo(), says="Also kept")
    before = taken_out(lab.client)
    assert {"photo", "proof"} <= {json.loads(line).get("row") for line in before.splitlines()}
    wipe(session)
    assert put_in(lab.client, lab.token, before).status_code == 200
    assert taken_out(lab.client) == before
    assert len(pictures(lab)) == 1
    broken = before.replace(b'"jpeg":"', b'"jpeg":"*', 1)
    wipe(session)
    answer = put_in(lab.client, lab.token, broken)
    assert answer.status_code == 422
    assert PROSE["a-field-of-it"] in answer.text


def card_of(client: TestClient, yard: Yard) -> tuple[float, float]:
    """Bags and water to pour of the first load, by the ticket as a file."""
    given = client.get(f"{yard.job}/ticket.json").json()
    assert "cards" in given, given
    card = given["cards"][0]
    return card["doses"][0]["packs"], card["water"]["pour"]["target"]


def test_a_good_load_becomes_a_mix_of_ones_own_with_the_water_it_had(client: TestClient, token: str) -> None:
    yard = Yard(
        client, token, mix="mortar-bag-s", mixer="paddle-bucket", shapes=[{"kind": "known", "volume_l": "60 L"}]
    )
    yard.begin()
    target = load_catalogue().mixes["mortar-bag-s"].basis
    assert isinstance(target, PremixBag)
    bags, asked_l = card_of(client, yard)
    assert asked_l == pytest.approx(bags * target.water_target_l)
    phone = yard.phone
    for number, litres in ((1, asked_l * 1.03), (2, asked_l)):
        phone.tap(number * 20, "started", ticket=1, slot=number - 1)
        phone.tap(number * 20 + 1, "poured", litres=litres)
        phone.tap(number * 20 + 2, "judged", verdict="right")
        phone.tap(number * 20 + 9, "accepted")
        phone.load += 1
    yard.send()
    html = client.get(f"{yard.job}/look-back").text
    first, second = sorted(re.findall(r'<option\s+value="(\d+ [^"]+)">load \d', html))
    as_said = yard.post("/pin", load=second)
    assert as_said.status_code == 422
    assert PROSE["there-is-nothing-to"] in as_said.text
    made = yard.post("/pin", load=first)
    assert made.status_code == 303
    own = made.headers["location"].split("/book/")[1].split("/")[0]
    keep(client, token, yard.job, **(yard.sheet | {"mix": own}))
    (card, *_) = client.get(f"{yard.job}/ticket.json").json()["cards"]
    assert card["water"]["pour"]["target"] == pytest.approx(
        card["doses"][0]["packs"] * target.water_target_l * 1.03, rel=1e-3
    )
    assert yard.post("/pin", load="99 nothing").status_code == 422
