"""Sessions as people see them: the browsers they are signed in with, how long one lasts, and in which firm they act."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib import auth
from django.contrib.sessions.models import Session
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from mellow_span.people.models import Device

# How often it is noted that a session is used [s].
NOTED = 60
BROWSERS = (("Edg/", "Edge"), ("Firefox/", "Firefox"), ("Chrome/", "a Chromium browser"), ("Safari/", "Safari"))
SYSTEMS = (("Android", "Android"), ("iPhone", "iPhone"), ("iPad", "iPad"), ("Windows", "Windows"), ("Mac OS", "macOS"), ("Linux", "Linux"))


def agent_of(request: HttpRequest) -> str:
    """Return browser and system of a request in words."""
    said = request.headers.get("User-Agent", "")
    browser = next((name for mark, name in BROWSERS if mark in said), "a browser")
    system = next((name for mark, name in SYSTEMS if mark in said), "")
    return f"{browser} on {system}" if system else browser


class Sessions:
    """Ends sessions that were not used for a while or have lasted long enough; keeps the list of devices; says in which firm the person acts."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        user: Any = request.user
        if request.path_info.startswith("/api/") and user.is_authenticated:
            self._keep(request, user)
        return self.get_response(request)

    @staticmethod
    def _keep(request: HttpRequest, user: Any) -> None:
        session, now = request.session, int(time.time())
        made, seen = session.get("made", now), session.get("seen", 0)
        if seen and (now - seen > settings.SESSION_IDLE or now - made > settings.SESSION_COOKIE_AGE):
            sign_out(request)
            return
        if now - seen > NOTED:
            session["made"], session["seen"] = made, now
            if not session.session_key:
                session.save()
            Device.objects.update_or_create(
                session=session.session_key, defaults={"user": user, "agent": agent_of(request), "seen": timezone.now()}
            )
        user.acting_as = session.get("member")


def sign_out(request: HttpRequest) -> None:
    """End the session of a request."""
    Device.objects.filter(session=request.session.session_key or "").delete()
    auth.logout(request)


def end(devices: Iterable[Device]) -> None:
    """Sign out there: the sessions of these devices are over at once."""
    keys = [device.session for device in devices]
    Session.objects.filter(session_key__in=keys).delete()
    Device.objects.filter(session__in=keys).delete()


def devices_of(user: Any) -> list[Device]:
    """Return the devices a person is signed in with; those whose session is over are forgotten."""
    found = list(Device.objects.filter(user=user))
    alive = set(
        Session.objects.filter(session_key__in=[d.session for d in found], expire_date__gt=timezone.now()).values_list(
            "session_key", flat=True
        )
    )
    idle = timezone.now() - timedelta(seconds=settings.SESSION_IDLE)
    over = [d for d in found if d.session not in alive or d.seen < idle]
    if over:
        end(over)
    return [d for d in found if d not in over]
