"""How a job stands: its figures, or in words why there are none. One that cannot be figured is still a job."""

from __future__ import annotations

import dataclasses
import logging

from mellow_span.core.design.check import Checked, work_out
from mellow_span.core.design.stages import Staged, shown, stages_of
from mellow_span.core.errors import CoreError, RuleSetError
from mellow_span.core.findings.results import InstallationResult
from mellow_span.core.model.parts import Installation

log = logging.getLogger(__name__)


@dataclasses.dataclass(frozen=True, slots=True)
class Standing:
    """A value of a job with its figures. trouble: why there are none."""

    installation: Installation
    done: Checked | None
    trouble: str = ""
    #: Where the job has stages: it at each of them; `done` is that of the last.
    staged: Staged | None = None

    @property
    def result(self) -> InstallationResult | None:
        """The figures; of a job with stages as `stages.shown`."""
        if self.done is None or self.staged is None:
            return self.done.result if self.done else None
        return shown(self.installation, self.staged)


def stand(job: Installation, keep: frozenset[str] = frozenset()) -> Standing:
    """Figure a job; keep: circuits whose working is wanted. Never raises: what stands in the way is said."""
    try:
        staged = stages_of(job, keep)
        return Standing(job, staged.last.done if staged else work_out(job, keep, reuse=True), "", staged)
    except CoreError as error:
        return Standing(job, None, f"This job cannot be worked out. {error}")
    except RuleSetError as error:
        return Standing(job, None, f"This job cannot be worked out: {error}")
    except Exception:
        # A value that an older version took and this one does not, or a fault of ours: either way the job opens and says so.
        log.exception("a job cannot be figured")
        return Standing(job, None, "This job cannot be worked out: it holds a value this version does not know. What is known is shown.")
