"""People: signing in and its limits, the second step, devices, firms and their members, invitations, links for clients, what is kept of it."""

from __future__ import annotations

import io
import json
import re
import threading
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.contrib.auth import get_user_model
from django.contrib.sessions.models import Session
from django.core.management import CommandError, call_command
from django.db import IntegrityError, connections
from django.test import Client
from django.utils import timezone
from django_otp.oath import totp
from django_otp.plugins.otp_static.models import StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from mellow_span.jobs.models import Firm as FirmRow
from mellow_span.jobs.models import Job, Member
from mellow_span.people import throttle
from mellow_span.people.models import Attempt, Device, Event, Invitation
from tests.api.test_jobs import change, send
from tests.conftest import PASSWORD, Firm, make_colleague, make_firm

pytestmark = pytest.mark.django_db
Sign = Callable[[Firm], Client]
STRONG = "correct span of 42 metres"


def post(client: Client, address: str, **body: Any) -> Any:
    return client.post(address, json.dumps(body), content_type="application/json")


def sign_in(client: Client, username: str, password: str = PASSWORD, **more: Any) -> Any:
    address = more.pop("address", "127.0.0.1")
    body = json.dumps({"username": username, "password": password, **more})
    return client.post("/api/session", body, content_type="application/json", REMOTE_ADDR=address)


def happened(firm: Firm) -> list[str]:
    return list(Event.objects.filter(firm=firm.member.firm).order_by("pk").values_list("kind", flat=True))


# The door -------------------------------------------------------------------------------------------------------------------------------


def test_five_wrong_passwords_close_one_name_from_one_address_and_nothing_else(firm: Firm, other: Firm) -> None:
    client = Client()
    assert [sign_in(client, firm.username, "wrong").status_code for _ in range(4)] == [401] * 4
    shut = sign_in(client, firm.username, "wrong")
    assert shut.status_code == 429
    assert 0 < int(shut.headers["Retry-After"]) <= 600
    assert "minutes" in shut.json()["detail"]
    assert sign_in(client, firm.username.upper()).status_code == 429
    assert sign_in(client, other.username).status_code == 200
    assert sign_in(Client(), firm.username, address="10.0.0.9").status_code == 200
    Attempt.objects.update(at=timezone.now() - throttle.WITHIN)
    assert sign_in(Client(), firm.username).status_code == 200
    assert not Attempt.objects.filter(at__gt=timezone.now() - throttle.WITHIN).exists()


def test_an_address_that_tries_many_names_has_to_wait(firm: Firm, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(throttle, "FROM_ADDRESS", 6)
    for i in range(6):
        sign_in(Client(), f"nobody-{i}", "wrong", address="10.0.0.1")
    assert sign_in(Client(), firm.username, address="10.0.0.1").status_code == 429
    assert sign_in(Client(), firm.username, address="10.0.0.2").status_code == 200


def test_many_addresses_that_try_one_name_do_not_lock_its_person_out(firm: Firm, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(throttle, "UNDER_NAME", 6)
    mine = Client()
    assert sign_in(mine, firm.username).status_code == 200
    mine.delete("/api/session")
    for i in range(6):
        sign_in(Client(), firm.username, "wrong", address=f"10.0.1.{i}")
    assert sign_in(Client(), firm.username, address="10.0.2.1").status_code == 429
    # The browser in which they signed in before is theirs.
    assert sign_in(mine, firm.username, address="10.0.2.1").status_code == 200


def test_what_is_kept_of_a_wrong_password_names_nobody(firm: Firm) -> None:
    sign_in(Client(), firm.username, "wrong", address="10.11.12.13")
    row = Attempt.objects.get()
    assert firm.username not in row.name
    assert "10.11" not in row.address


def test_names_of_people_are_the_same_in_any_case(firm: Firm) -> None:
    assert sign_in(Client(), f"  {firm.username.upper()} ").json()["username"] == firm.username
    with pytest.raises(IntegrityError):
        get_user_model().objects.create_user(firm.username.upper())


@pytest.mark.parametrize(
    ("password", "why"), [("short1", "10 characters"), ("password123", "too common"), ("8472910385621", "entirely numeric")]
)
def test_a_weak_password_is_refused_with_what_is_asked_of_one(password: str, why: str, firm: Firm, signed_in: Sign) -> None:
    answer = post(signed_in(firm), "/api/session/password", old=PASSWORD, new=password)
    error = answer.json()["errors"][0]
    assert (answer.status_code, error["field"]) == (422, "new")
    assert why in error["allowed"]
    assert password not in answer.content.decode()


def test_a_new_password_signs_every_other_device_out(firm: Firm) -> None:
    here, there = Client(), Client()
    for client in (here, there):
        sign_in(client, firm.username)
        client.get("/api/session")
    assert post(here, "/api/session/password", old="wrong", new=STRONG).json()["errors"][0]["field"] == "old"
    assert post(here, "/api/session/password", old=PASSWORD, new=STRONG).status_code == 200
    assert here.get("/api/jobs").status_code == 200
    assert there.get("/api/jobs").status_code == 401
    assert sign_in(Client(), firm.username).status_code == 401
    assert sign_in(Client(), firm.username, STRONG).status_code == 200


# The second step ------------------------------------------------------------------------------------------------------------------------


def code_of(user: Any, ahead: int = 0) -> str:
    """The code of the app now; each is good once, so a later one is taken where one was used."""
    device = TOTPDevice.objects.get(user=user)
    return f"{totp(device.bin_key, step=device.step, t0=device.t0, drift=ahead):06d}"


def rest(user: Any) -> None:
    """After a wrong code the next has to wait a second or more: as if it had."""
    for device in (*user.totpdevice_set.all(), *user.staticdevice_set.all()):
        device.throttle_reset()


def test_the_second_step_from_on_to_recovery(firm: Firm) -> None:
    client, user = Client(), firm.member.user
    sign_in(client, firm.username)
    begun = post(client, "/api/session/second").json()
    assert begun["address"].startswith("otpauth://totp/")
    assert "<svg" in begun["picture"]
    assert not client.get("/api/session/second").json()["on"], "it counts once a code proves it"
    assert sign_in(Client(), firm.username).status_code == 200
    assert post(client, "/api/session/second/confirm", code="000000").json()["errors"][0]["field"] == "code"
    rest(user)
    codes = post(client, "/api/session/second/confirm", code=code_of(user)).json()["codes"]
    assert len(set(codes)) == 10
    kept = set(StaticToken.objects.filter(device__user=user).values_list("token", flat=True))
    assert len(kept) == 10
    assert not kept & set(codes), "of a recovery code its hash alone is kept"
    assert all(sign_in(Client(), firm.username, code=one).status_code == 401 for one in list(kept)[:2]), "and the hash opens nothing"
    rest(user)

    stranger = Client()
    asked = sign_in(stranger, firm.username)
    assert (asked.status_code, asked.json()["errors"][0]["field"]) == (401, "code")
    assert stranger.get("/api/jobs").status_code == 401, "the password alone opens nothing"
    assert sign_in(stranger, firm.username, code="000000").status_code == 401
    rest(user)
    assert sign_in(stranger, firm.username, code=code_of(user, 1)).status_code == 200
    rest(user)
    assert sign_in(Client(), firm.username, code=codes[0].upper()).status_code == 200
    assert client.get("/api/session/second").json() == {"on": True, "codes_left": 9}
    again = sign_in(Client(), firm.username, code=codes[0])
    assert again.status_code == 401, "a recovery code is good once"
    rest(user)
    assert post(client, "/api/session/second/end", code="000000").status_code == 422
    rest(user)
    assert post(client, "/api/session/second/end", code=codes[1]).json() == {"on": False, "codes_left": 0}
    assert sign_in(Client(), firm.username).status_code == 200
    assert {"second_on", "second_off", "signed_in", "refused"} <= set(happened(firm))


def test_wrong_codes_count_as_wrong_passwords(firm: Firm) -> None:
    TOTPDevice.objects.create(user=firm.member.user, confirmed=True)
    answers = [sign_in(Client(), firm.username, code="000000").status_code for _ in range(6)]
    assert answers[-1] == 429


# Devices and sessions -------------------------------------------------------------------------------------------------------------------


def test_a_device_is_listed_and_signed_out_from_another(firm: Firm) -> None:
    here, there = Client(), Client(headers={"user-agent": "Mozilla/5.0 (Android 14; Mobile) Firefox/140.0"})
    for client in (here, there):
        sign_in(client, firm.username)
        client.get("/api/jobs")
    lines = here.get("/api/session/devices").json()
    assert sorted((d["agent"], d["here"]) for d in lines) == [("Firefox on Android", False), ("a browser", True)]
    phone = next(d["id"] for d in lines if not d["here"])
    assert [d["here"] for d in here.delete(f"/api/session/devices/{phone}").json()] == [True]
    assert there.get("/api/jobs").status_code == 401
    assert here.get("/api/jobs").status_code == 200


def test_a_session_ends_when_it_rests_and_when_it_is_old(firm: Firm, settings: Any) -> None:
    for field, back in (("seen", settings.SESSION_IDLE + 100), ("made", settings.SESSION_COOKIE_AGE + 100)):
        client = Client()
        sign_in(client, firm.username)
        client.get("/api/jobs")
        session = client.session
        session["seen"] = int(time.time()) - 10
        session[field] = int(time.time()) - back
        session.save()
        assert client.get("/api/jobs").status_code == 401, field
        assert not Session.objects.filter(session_key=session.session_key).exists()


# Firms ----------------------------------------------------------------------------------------------------------------------------------


def invite(client: Client, role: str = "designer", name: str = "Guest") -> str:
    answer = post(client, "/api/firm/invitations", name=name, role=role)
    assert answer.status_code == 201, answer.content
    return str(answer.json()["token"])


def test_a_new_person_joins_by_a_link_that_is_good_once(firm: Firm, signed_in: Sign) -> None:
    token = invite(signed_in(firm), "apprentice")
    assert token not in json.dumps(list(Invitation.objects.values_list("token", flat=True)))
    guest = Client()
    assert guest.get(f"/api/invitations/{token}").json()["firm"] == firm.member.firm.name
    assert post(guest, f"/api/invitations/{token}").json()["errors"][0]["field"] == "username"
    taken = post(guest, f"/api/invitations/{token}", username=firm.username.upper(), password=STRONG)
    assert taken.json()["errors"][0]["field"] == "username"
    weak = post(guest, f"/api/invitations/{token}", username="fresh", password="short")
    assert weak.json()["errors"][0]["field"] == "password"
    assert not get_user_model().objects.filter(username="fresh").exists(), "both or neither"
    joined = post(guest, f"/api/invitations/{token}", username="fresh", password=STRONG).json()
    assert (joined["signed_in"], joined["role"], joined["firm"]) == (True, "apprentice", firm.member.firm.name)
    assert guest.get(f"/api/jobs/{firm.job.pk}").status_code == 200
    assert post(Client(), f"/api/invitations/{token}", username="second", password=STRONG).status_code == 404
    assert happened(firm)[-2:] == ["invited", "joined"]


def way_back(client: Client, member: int) -> Any:
    return post(client, f"/api/firm/members/{member}/way-back")


def test_who_was_removed_comes_back_under_their_name_by_their_own_password(firm: Firm, signed_in: Sign) -> None:
    client, colleague = signed_in(firm), make_colleague(firm)
    user = colleague.user
    user.set_password(PASSWORD)
    user.save()
    assert client.delete(f"/api/firm/members/{colleague.pk}").status_code == 204
    token, name = invite(client, "apprentice", "Cole"), user.get_username()
    wrong = post(Client(), f"/api/invitations/{token}", username=name, password="not their password")
    assert (wrong.status_code, wrong.json()["errors"][0]["field"]) == (422, "username")
    TOTPDevice.objects.create(user=user, confirmed=True)
    asked = post(Client(), f"/api/invitations/{token}", username=name.upper(), password=PASSWORD)
    assert (asked.status_code, asked.json()["errors"][0]["field"]) == (422, "code"), "the password alone is half of it"
    joined = post(Client(), f"/api/invitations/{token}", username=name.upper(), password=PASSWORD, code=code_of(user)).json()
    assert (joined["role"], joined["firm"]) == ("apprentice", firm.member.firm.name)
    assert firm.member.firm.members.filter(user=user, left__isnull=True).count() == 1


def test_a_password_is_not_found_out_through_an_invitation(firm: Firm, signed_in: Sign) -> None:
    token = invite(signed_in(firm))
    tried = [
        post(Client(), f"/api/invitations/{token}", username=firm.username, password=f"guess number {k}").status_code for k in range(7)
    ]
    assert tried == [422] * 5 + [429] * 2


def test_a_lost_password_and_a_lost_phone_have_a_way_back(firm: Firm, signed_in: Sign) -> None:
    client, colleague = signed_in(firm), make_colleague(firm)
    user, stays = colleague.user, Client()
    TOTPDevice.objects.create(user=user, confirmed=True)
    stays.force_login(user)
    stays.get("/api/jobs")
    first = way_back(client, colleague.pk).json()["token"]
    made = way_back(client, colleague.pk).json()
    token = made["token"]
    assert Client().get(f"/api/invitations/{first}").status_code == 404, "the last one counts"
    assert Client().get(f"/api/invitations/{token}").json()["username"] == made["username"] == user.get_username()
    assert [i["username"] for i in client.get("/api/firm").json()["invitations"]] == [user.get_username()]
    weak = post(Client(), f"/api/invitations/{token}", password="short")
    assert (weak.status_code, weak.json()["errors"][0]["field"]) == (422, "password")
    here = Client()
    back = post(here, f"/api/invitations/{token}", username="somebody else", password=STRONG).json()
    assert (back["signed_in"], back["username"], back["role"]) == (True, user.get_username(), colleague.role)
    assert here.get("/api/jobs").status_code == 200
    assert stays.get("/api/jobs").status_code == 401, "wherever they were signed in they are signed out"
    assert sign_in(Client(), user.get_username(), STRONG).status_code == 200, "the phone is not asked for"
    assert post(Client(), f"/api/invitations/{token}", password=STRONG).status_code == 404, "it is good once"
    assert {"way_back", "came_back"} <= set(happened(firm))


def test_who_was_removed_and_forgot_comes_back_too(firm: Firm, signed_in: Sign) -> None:
    client, colleague = signed_in(firm), make_colleague(firm)
    earlier = way_back(client, colleague.pk).json()["token"]
    client.delete(f"/api/firm/members/{colleague.pk}")
    assert post(Client(), f"/api/invitations/{earlier}", password=STRONG).status_code == 404, "a link of before the removal opens nothing"
    assert [m["id"] for m in client.get("/api/firm").json()["former"]] == [colleague.pk]
    token = way_back(client, colleague.pk).json()["token"]
    assert not colleague.firm.members.filter(pk=colleague.pk, left__isnull=True).exists(), "not before they use it"
    assert post(Client(), f"/api/invitations/{token}", password=STRONG).json()["signed_in"]
    assert client.get("/api/firm").json()["former"] == []


def test_a_way_back_lets_no_supervisor_into_another_firm(firm: Firm, other: Firm, signed_in: Sign) -> None:
    """Whoever sets a password acts as that person: so a person of two firms is given none by either, nor oneself, nor by an apprentice."""
    client = signed_in(firm)
    guest = Member.objects.create(firm=firm.member.firm, user=other.member.user, name="Guest", role="designer")
    for member in (guest.pk, firm.member.pk):
        answer = way_back(client, member)
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "member")
    assert way_back(client, other.member.pk).status_code == 404
    colleague = make_colleague(firm)
    token = way_back(client, colleague.pk).json()["token"]
    # They joined another firm between the link and its use.
    Member.objects.create(firm=other.member.firm, user=colleague.user, name="Cole", role="designer")
    assert post(Client(), f"/api/invitations/{token}", password=STRONG).status_code == 422
    assert not colleague.user.check_password(STRONG)
    signed = Client()
    signed.force_login(make_colleague(firm).user)
    assert way_back(signed, colleague.pk).status_code == 403, "a designer gives none"


def test_whoever_runs_the_server_gives_the_one_supervisor_a_way_back(firm: Firm) -> None:
    said = io.StringIO()
    call_command("way_back", firm.username.upper(), stdout=said)
    token = re.search(r"/join/(\S+)", said.getvalue())[1]  # type: ignore[index]
    assert post(Client(), f"/api/invitations/{token}", password=STRONG).json()["role"] == "supervisor"
    with pytest.raises(CommandError, match="Nobody"):
        call_command("way_back", "nobody at all")


@pytest.mark.parametrize("how", ["ended", "taken back"])
def test_an_invitation_ends(how: str, firm: Firm, signed_in: Sign) -> None:
    client = signed_in(firm)
    token = invite(client)
    if how == "ended":
        Invitation.objects.update(ends=timezone.now() - timedelta(seconds=1))
    else:
        assert client.delete(f"/api/firm/invitations/{Invitation.objects.get().pk}").json()["invitations"] == []
    assert Client().get(f"/api/invitations/{token}").status_code == 404


def test_a_person_is_in_several_firms_and_acts_in_one(firm: Firm, other: Firm, signed_in: Sign) -> None:
    token = invite(signed_in(other))
    mine = Client()
    sign_in(mine, firm.username)
    joined = post(mine, f"/api/invitations/{token}").json()
    assert (joined["firm"], len(joined["firms"])) == (other.member.firm.name, 2)
    assert mine.get(f"/api/jobs/{other.job.pk}").status_code == 200
    assert mine.get(f"/api/jobs/{firm.job.pk}").status_code == 404, "in one firm at a time"
    home = next(f["member"] for f in joined["firms"] if f["name"] == firm.member.firm.name)
    assert post(mine, "/api/session/firm", member=home).json()["role"] == "supervisor"
    assert mine.get(f"/api/jobs/{firm.job.pk}").status_code == 200
    assert mine.get(f"/api/jobs/{other.job.pk}").status_code == 404


def test_a_firm_keeps_a_supervisor_and_can_be_handed_over(firm: Firm, signed_in: Sign) -> None:
    client, me = signed_in(firm), firm.member.pk
    colleague = make_colleague(firm)
    for answer in (
        client.patch(f"/api/firm/members/{me}", json.dumps({"role": "designer"}), content_type="application/json"),
        client.delete(f"/api/firm/members/{me}"),
    ):
        assert (answer.status_code, answer.json()["errors"][0]["field"]) == (422, "role")
    after = post(client, f"/api/firm/members/{colleague.pk}/hand-over").json()
    assert {m["id"]: m["role"] for m in after["members"]} == {me: "designer", colleague.pk: "supervisor"}
    assert client.delete(f"/api/firm/members/{me}").status_code == 204
    assert client.get("/api/session").json()["signed_in"] is False
    assert sign_in(Client(), firm.username).json()["errors"][0]["field"] == "username"


@pytest.mark.django_db(transaction=True)
def test_the_last_two_supervisors_cannot_leave_at_once() -> None:
    firm = make_firm()
    second = make_colleague(firm, "supervisor")
    clients = []
    for user in (firm.member.user, second.user):
        client = Client()
        client.force_login(user)
        client.get("/api/session")
        clients.append(client)
    answers: list[int] = []

    def leave(client: Client, member: int) -> None:
        answers.append(client.delete(f"/api/firm/members/{member}").status_code)
        connections.close_all()

    threads = [threading.Thread(target=leave, args=pair) for pair in zip(clients, (firm.member.pk, second.pk), strict=True)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(answers) == [204, 422]
    assert Member.objects.filter(firm=firm.member.firm, role="supervisor", left__isnull=True).count() == 1


def test_who_is_removed_is_out_at_once_and_stays_in_the_history(firm: Firm, signed_in: Sign, client: Client) -> None:
    colleague = make_colleague(firm)
    client.force_login(colleague.user)
    client.get("/api/session")
    assert send(client, firm, change("set", "job", fields={"note": "x"})).status_code == 200
    boss = Client()
    boss.force_login(firm.member.user)
    assert boss.delete(f"/api/firm/members/{colleague.pk}").status_code == 204
    assert client.get(f"/api/jobs/{firm.job.pk}").status_code == 404
    assert client.get("/api/session").json()["signed_in"] is False
    assert boss.get(f"/api/jobs/{firm.job.pk}/history").json()["lines"][0]["by"] == "colleague"


def test_a_firm_is_never_joined_by_its_name(firm: Firm) -> None:
    from django.core.management import CommandError, call_command

    with pytest.raises(CommandError):
        call_command("add_member", "somebody", firm=firm.username, password_file="x")


def test_an_apprentice_proposes_and_a_designer_takes_it_over(firm: Firm, signed_in: Sign) -> None:
    apprentice = make_colleague(firm, "apprentice")
    mine = Client()
    mine.force_login(apprentice.user)
    changes = [change("set", "job", fields={"note": "proposed"})]
    refused = send(mine, firm, *changes)
    assert (refused.status_code, refused.json()["errors"][0]["given"]) == (403, "apprentice")
    assert "propose" in refused.json()["detail"]
    assert send(mine, firm, *changes, dry_run=True).json()["installation"]["note"] == "proposed"
    kept = post(mine, f"/api/jobs/{firm.job.pk}/copies", id="00000000-0000-4000-8000-000000000001", name="Proposal", changes=changes)
    assert kept.status_code == 201
    column = next(c for c in signed_in(firm).get(f"/api/jobs/{firm.job.pk}/copies").json() if c["title"] == "Proposal")
    assert (column["by"], column["said"]) == ("colleague", ["note: nothing to proposed"]) or column["by"] == "colleague"
    assert send(signed_in(firm), firm, *column["changes"]).status_code == 200
    assert Job.objects.get(pk=firm.job.pk).note == "proposed"


# Links for clients, and what is kept -------------------------------------------------------------------------------------------------------


def test_a_client_reads_one_version_until_the_link_ends(firm: Firm, signed_in: Sign) -> None:
    boss, reader = signed_in(firm), Client()
    made = post(boss, f"/api/jobs/{firm.job.pk}/links", name="The owner", days=14).json()
    send(boss, firm, change("set", "job", fields={"name": "Changed since"}))
    seen = reader.get(f"/api/shared/{made['token']}").json()
    assert (seen["name"], seen["version"]) == ("Orchard Row", 1)
    verdicts = {c["id"]: c["verdict"] for b in seen["boards"] for c in b["circuits"]}
    state = boss.get(f"/api/jobs/{firm.job.pk}").json()
    assert verdicts == {s["id"]: s["verdict"] for s in state["summaries"]}
    assert reader.get(f"/api/jobs/{firm.job.pk}").status_code == 401, "the link opens nothing else"
    assert "token" not in json.dumps([x for x in boss.get(f"/api/jobs/{firm.job.pk}/links").json() if x["token"]])
    assert boss.delete(f"/api/jobs/{firm.job.pk}/links/{made['id']}").status_code == 204
    assert reader.get(f"/api/shared/{made['token']}").status_code == 404


@pytest.mark.parametrize("how", ["over", "deleted"])
def test_a_link_ends_by_itself_and_with_its_job(how: str, firm: Firm, signed_in: Sign) -> None:
    boss = signed_in(firm)
    token = post(boss, f"/api/jobs/{firm.job.pk}/links", name="The owner", days=1).json()["token"]
    if how == "over":
        firm.job.links.update(ends=timezone.now() - timedelta(seconds=1))
    else:
        boss.delete(f"/api/jobs/{firm.job.pk}")
    assert Client().get(f"/api/shared/{token}").status_code == 404


def test_what_happened_is_kept_for_the_supervisor(firm: Firm) -> None:
    client = Client()
    sign_in(client, firm.username, "wrong")
    sign_in(client, firm.username)
    client.get(f"/api/jobs/{firm.job.pk}/export")
    client.delete(f"/api/jobs/{firm.job.pk}")
    post(client, f"/api/jobs/{firm.job.pk}/bring-back")
    rows = client.get("/api/firm/events").json()["events"]
    assert [e["kind"] for e in rows] == ["brought_back", "deleted", "exported", "signed_in", "refused"]
    assert rows[1]["about"] == "Orchard Row"
    older = client.get(f"/api/firm/events?before={rows[1]['id']}").json()["events"]
    assert [e["kind"] for e in older] == ["exported", "signed_in", "refused"]


def test_a_person_of_no_firm_sees_nothing(client: Client, db: None) -> None:
    client.force_login(get_user_model().objects.create_user("alone"))
    assert client.get("/api/session").json()["signed_in"] is False
    assert client.get("/api/jobs").status_code == 404
    assert not FirmRow.objects.filter(members__user__username="alone").exists()
    assert Device.objects.count() == 1
