"""The rules of a firm for its work on site."""

from __future__ import annotations

from mellow_span.answers.given import DRUMS
from mellow_span.core.site.pulls import Slack
from mellow_span.jobs.models import Firm
from mellow_span.logbook.models import SiteRules


def site_rules(firm: Firm) -> SiteRules:
    """Return a firm's rules; what is usual where it has said nothing."""
    found = SiteRules.objects.filter(firm=firm).first()
    usual = Slack()
    return found or SiteRules(firm=firm, board=usual.board, end=usual.end, undecided=usual.undecided, drums=list(DRUMS))


def slack_of(rules: SiteRules) -> Slack:
    """Return what a firm cuts more than a run is long."""
    return Slack(rules.board, rules.end, rules.undecided)
