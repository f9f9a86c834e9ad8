"""The WSGI entry that gunicorn serves."""

import gc
import os

from django.core.wsgi import get_wsgi_application

from mellow_span.core.rules import available, load

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mellow_span.settings")
application = get_wsgi_application()
# The rule sets are read before the first request, which would otherwise wait for them.
for ruleset in available():
    load(ruleset)
# An answer makes thousands of small short-lived objects: collect seldom, and leave what was loaded above out of it.
gc.collect()
gc.freeze()
gc.set_threshold(50_000, 20, 20)
