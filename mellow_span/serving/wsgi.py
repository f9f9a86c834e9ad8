"""The WSGI entry that `mellow_span.serving.server` serves."""

import os

from django.core.wsgi import get_wsgi_application

from mellow_span.core.rulesets import available, rule_set
from mellow_span.process.tuning import collect_seldom

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
application = get_wsgi_application()
# The rule sets are read before the first request, which would otherwise wait for them.
for ruleset in available():
    rule_set(ruleset)
collect_seldom()
