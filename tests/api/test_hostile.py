"""What somebody sends who means no good, or a machine that broke: pictures with more in them, figures past any range, other ways to ask."""

from __future__ import annotations

import io
import json
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client
from django_otp.plugins.otp_totp.models import TOTPDevice
from PIL import Image

from mellow_span.core.model.fields import PartKind, own_fields
from mellow_span.logbook import pictures
from mellow_span.settings.headers import EVERYWHERE
from tests.api.test_jobs import change, named, send
from tests.api.test_together import entry
from tests.conftest import Firm
from tests.pictures import address, jpeg

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
HTML = b"<html><script>alert(1)</script>"


def put_up(client: Client, firm: Firm, image: str) -> tuple[Any, Any]:
    """Send a photo; return the answer and the photo as it is shown."""
    sent = entry("photo", named(firm, "Shower").pk, name="terminals", image=image)
    answer = client.post(f"/api/jobs/{firm.job.pk}/site", json.dumps(sent), content_type="application/json")
    return answer, client.get(f"/api/jobs/{firm.job.pk}/photos/{sent['id']}")


def test_of_a_photo_the_pixels_alone_are_kept_and_it_stands_upright(firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    for image in (jpeg(turned=6, place="53.1 N 2.2 W"), jpeg(turned=6, place="53.1 N 2.2 W") + HTML):
        answer, shown = put_up(client, firm, address(image))
        assert (answer.status_code, shown.status_code) == (200, 200), answer.json()
        assert b"53.1" not in shown.content
        assert b"<script" not in shown.content
        with Image.open(io.BytesIO(shown.content)) as kept:
            assert (kept.format, kept.size, dict(kept.getexif())) == ("JPEG", (30, 40), {})
            # Held turned to the right: what was left of it is its top.
            top, bottom = kept.getpixel((15, 5)), kept.getpixel((15, 35))
            assert top[2] > top[0], bottom[0] > bottom[2]
    _, shown = put_up(client, firm, address(jpeg(2400, 1200)))
    with Image.open(io.BytesIO(shown.content)) as kept:
        assert kept.size == (1600, 800)


@pytest.mark.parametrize("what", ["words behind a mark", "half of one", "another format", "a bomb", "nothing"])
def test_what_only_claims_to_be_a_photo_is_refused_at_its_field(
    what: str, firm: Firm, signed_in: Sign, monkeypatch: pytest.MonkeyPatch
) -> None:
    png = io.BytesIO()
    Image.new("RGB", (8, 8)).save(png, "PNG")
    image = {
        "words behind a mark": b"\xff\xd8\xff\xe0" + HTML * 20, "half of one": jpeg(400, 300)[:1200], "another format": png.getvalue(),
        "a bomb": jpeg(400, 300), "nothing": b"",
    }[what]  # fmt: skip
    if what == "a bomb":
        monkeypatch.setattr(pictures, "MOST_PIXELS", 100 * 100)
    answer, shown = put_up(signed_in(firm), firm, address(image))
    assert (answer.status_code, answer.json()["errors"][0]["field"], shown.status_code) == (422, "data.image", 404)


def test_a_photo_that_a_browser_has_is_not_sent_again_and_never_to_another_firm(firm: Firm, other: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    _, shown = put_up(client, firm, address(jpeg()))
    again = client.get(shown.request["PATH_INFO"], headers={"If-None-Match": shown["ETag"]})
    assert (again.status_code, again.content, shown["Cache-Control"]) == (304, b"", "private, no-cache")
    theirs = signed_in(other).get(shown.request["PATH_INFO"], headers={"If-None-Match": shown["ETag"]})
    assert theirs.status_code == 404
    gone = client.get(f"/api/jobs/{firm.job.pk}/photos/{uuid.uuid4()}", headers={"If-None-Match": shown["ETag"]})
    assert gone.status_code == 404


@pytest.mark.parametrize("kind", ["job", "supply"])
def test_neither_the_job_nor_its_supply_is_removed_whatever_version_it_is_asked_of(kind: str, firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    assert send(client, firm, change("set", "job", fields={"note": "later"})).status_code == 200
    for version in (1, 2):
        body = {"edit_id": str(uuid.uuid4()), "version": version, "changes": [change("remove", kind)]}
        answer = client.patch(f"/api/jobs/{firm.job.pk}", json.dumps(body), content_type="application/json")
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "kind"), version


PAST_ANY_RANGE = ["1e400", "-1e400", "1e308", "9" * 400, "-" + "9" * 400, "Infinity", "-Infinity", "NaN", '"NaN"', '"1e400"', '"inf"']


@pytest.mark.parametrize("figure", PAST_ANY_RANGE)
def test_a_figure_past_any_range_is_refused_at_its_field_wherever_it_stands(figure: str, firm: Firm, signed_in: Sign) -> None:
    """Every field of every kind of part: as text, since no figure of ours can be so large."""
    client, shower = signed_in(firm), named(firm, "Shower")
    ids = {"circuit": shower.pk, "load": shower.loads.first().pk, "span": shower.run.spans.first().pk, "board": shower.board_id}
    kinds: list[PartKind] = ["supply", "board", "circuit", "load", "span", "job"]
    taken = []
    for kind in kinds:
        for name in own_fields(kind):
            text = json.dumps(
                {"edit_id": str(uuid.uuid4()), "version": 1, "changes": [change("set", kind, ids.get(kind), fields={name: "<here>"})]}
            )
            answer = client.patch(f"/api/jobs/{firm.job.pk}", text.replace('"<here>"', figure), content_type="application/json")
            if answer.status_code == 200:
                taken.append((kind, name))
            else:
                assert answer.status_code in (400, 422), (kind, name, answer.status_code)
                assert answer.json()["errors"][0]["allowed"]
    # Words may be spelled like a figure; nothing else takes one.
    words = {("job", "name"), ("job", "note"), ("job", "client"), ("job", "place")}
    named_so = {(kind, name) for kind, name in taken if name in ("name", "note", "source", "reason", "room", "serves", "where")}
    assert set(taken) <= words | named_so | {t for t in taken if figure.startswith('"')} - _numbers(taken), taken


def _numbers(taken: list[tuple[Any, str]]) -> set[tuple[Any, str]]:
    """Those of some fields that hold a figure."""
    from mellow_span.core.model import fields as of

    return {
        (kind, name)
        for kind, name in taken
        if isinstance(of.default(kind, name), int | float) and not isinstance(of.default(kind, name), bool)
    }


@pytest.mark.parametrize(
    "address_of", ["materials/substitutes?key=x&count={}", "isolation/plan?kind=circuit&id={}", "revisions/compare?old={}&new=0"]
)
@pytest.mark.parametrize("figure", ["1e400", "-1e400", "nan", "inf", "9" * 400, "%00", "1e308"])
def test_a_figure_past_any_range_in_an_address_is_refused(address_of: str, figure: str, firm: Firm, signed_in: Sign) -> None:
    answer = signed_in(firm).get(f"/api/jobs/{firm.job.pk}/{address_of.format(figure)}")
    assert answer.status_code in (404, 422), answer.content
    assert answer.json()["errors"][0]["allowed"]


@pytest.mark.parametrize("method", ["PUT", "TRACE", "POST", "DELETE", "PATCH", "OPTIONS"])
def test_a_page_is_only_looked_at(method: str, client: Client) -> None:
    for page in ("/", "/jobs", "/jobs/x/attention"):
        answer = client.generic(method, page)
        assert (answer.status_code, answer["Allow"]) == (405, "GET, HEAD"), page
        assert {k: answer.headers.get(k) for k in EVERYWHERE} == EVERYWHERE


def test_the_second_step_is_not_turned_off_by_trying_codes(firm: Firm, signed_in: Sign) -> None:
    device = TOTPDevice.objects.create(user=firm.member.user, confirmed=True)
    client = signed_in(firm)
    answers = []
    for _ in range(6):
        device.refresh_from_db()
        device.throttle_reset()
        answers.append(client.post("/api/session/second/end", json.dumps({"code": "000000"}), content_type="application/json").status_code)
    assert answers == [422, 422, 422, 422, 429, 429]
    assert TOTPDevice.objects.filter(confirmed=True).exists()
