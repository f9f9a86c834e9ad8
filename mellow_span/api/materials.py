"""Materials of a job: counted from its design, priced by the firm's book and at the merchant; what there is instead of a cable that cannot be had."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema, Status
from ninja.decorators import decorate_view

from mellow_span.answers.materials import HAD, Materials, materials_of, needs_of
from mellow_span.answers.stages import seen
from mellow_span.api.asked import OfStage, given_of
from mellow_span.api.behind import behind_asking_outside
from mellow_span.api.errors import Refusal
from mellow_span.api.render import send
from mellow_span.api.waiting import Searching
from mellow_span.core.design.check import lay_out
from mellow_span.core.errors import InputError
from mellow_span.core.site.substitutes import Substitute, kin, substitutes
from mellow_span.jobs.ownership import designer_of, job_of, member_of
from mellow_span.jobs.reads import installation, snapshot
from mellow_span.logbook import merchant
from mellow_span.logbook.models import Prices
from mellow_span.logbook.prices import bring_in, file_of, text_of

router, prices_router = Router(), Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


@router.get("/{uuid:job_id}/materials", response={200: Materials, 202: Searching, **REFUSALS}, operation_id="materials")
@decorate_view(behind_asking_outside)
def job_materials(request: HttpRequest, job_id: UUID, stage: OfStage = "") -> Any:
    """Return what a job takes, with prices and stock."""
    given = seen(given_of(request, job_id, HAD), "/materials", stage=stage)
    # Nobody is asked while the database waits.
    needs = needs_of(given)
    return send(Materials, materials_of(given, needs, merchant.quote({n.key: n.count for n in needs})))


@router.get(
    "/{uuid:job_id}/materials/substitutes", response={200: list[Substitute], 202: Searching, **REFUSALS}, operation_id="substitutes"
)
@decorate_view(behind_asking_outside)
def job_substitutes(request: HttpRequest, job_id: UUID, key: str, count: float = 1.0) -> Any:
    """Return what the merchant has in the place of a cable, each proved by every check of the job. count: how much is needed [m]."""
    if not 0 <= count < 1e6:
        raise InputError("count", count, "0 to 1 000 000 m")
    with snapshot():
        inputs = installation(job_of(request.user, job_id))
    there = merchant.offered([f"cable/{family}/" for family in sorted(kin(lay_out(inputs).rules, key))], count)
    return send(list[Substitute], list(substitutes(inputs, key, there or {})))


class PricesIn(Schema):
    """A price book as the text of a CSV file with the columns item, name, size, price."""

    text: str = Field(max_length=500_000)


class PricesOut(Schema):
    """Whose the price book is, and how many lines it has."""

    own: bool
    lines: int


@prices_router.get("", response={200: PricesOut, **REFUSALS}, operation_id="prices")
def prices(request: HttpRequest) -> Any:
    """Say whose the price book is."""
    firm = member_of(request.user).firm_id
    return PricesOut(own=bool(text_of(firm)), lines=len(file_of(firm).splitlines()) - 1)


@prices_router.get("/file", response={200: str, **REFUSALS}, operation_id="prices_file")
def prices_file(request: HttpRequest) -> Any:
    """Return the price book as a CSV file; the made-up one where the firm has none."""
    response = HttpResponse(file_of(member_of(request.user).firm_id), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="prices.csv"'
    return response


@prices_router.put("", response={200: PricesOut, **REFUSALS}, operation_id="set_prices")
def set_prices(request: HttpRequest, given: PricesIn) -> Any:
    """Bring in a price book; ways out, sizes together and the list of materials go by it from then on."""
    member = designer_of(request.user)
    return PricesOut(own=True, lines=bring_in(member.firm, member, given.text))


@prices_router.delete("", response={204: None, **REFUSALS}, operation_id="drop_prices")
def drop_prices(request: HttpRequest) -> Any:
    """Go back to the made-up prices."""
    Prices.objects.filter(firm=designer_of(request.user).firm).delete()
    return Status(204, None)
