"""How a job stands: its figures, or in words why there are none. One that cannot be figured is still a job."""

from __future__ import annotations

import dataclasses
import logging
from typing import Any

from mellow_span.core.design.check import Checked, work_out
from mellow_span.core.errors import CoreError, InputError, RuleSetError
from mellow_span.core.findings.results import InstallationResult, Problem
from mellow_span.core.model import fields as of
from mellow_span.core.model.difference import parts
from mellow_span.core.model.fields import INSIDE
from mellow_span.core.model.parts import Installation

log = logging.getLogger(__name__)


@dataclasses.dataclass(frozen=True, slots=True)
class Standing:
    """A value of a job with its figures. trouble: why there are none; unfit: values that this version does not take, by part and field."""

    installation: Installation
    done: Checked | None
    trouble: str = ""
    unfit: tuple[Problem, ...] = ()

    @property
    def result(self) -> InstallationResult | None:
        """The figures."""
        return self.done.result if self.done else None


def stand(job: Installation, keep: frozenset[str] = frozenset()) -> Standing:
    """Figure a job; keep: circuits whose working is wanted. Never raises: what stands in the way is said."""
    try:
        return Standing(job, work_out(job, keep, reuse=True))
    except CoreError as error:
        return Standing(job, None, f"This job cannot be worked out. {error}", tuple(unfit(job)))
    except RuleSetError as error:
        return Standing(job, None, f"This job cannot be worked out: {error}")
    except Exception:
        # A value that an older version took and this one does not: named, so that it can be mended.
        found = tuple(unfit(job))
        if not found:
            log.exception("a job cannot be figured")
        named = f"{found[0].field}: {found[0].given} is stored, allowed: {found[0].allowed}" if found else "the reason is in the log"
        return Standing(job, None, f"This job cannot be worked out. {named}", found)


def unfit(job: Installation) -> list[Problem]:
    """List every stored value that the model does not take any more, by the name of its part and its field."""
    found = []
    for (kind, identity), (part, _) in parts(job).items():
        for name in of.field_names(kind):
            if name in INSIDE:
                continue
            value: Any = of.get(part, name)
            if value == of.default(kind, name):
                continue
            try:
                of.checked(kind, name, value, None)
            except InputError as error:
                called = getattr(part, "name", "") or kind
                found.append(Problem(f"{kind}.{identity}.{name}" if identity else f"{kind}.{name}", f"{called}: {value}", error.allowed))
    return found
