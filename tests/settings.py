"""The settings of the app with a cheap password hash: thousands of rounds guard real passwords, not test ones."""

from mellow_span.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
# What a test stores does not have to outlive the machine.
DATABASES["default"]["OPTIONS"]["options"] += " -c synchronous_commit=off"  # type: ignore[name-defined]  # noqa: F405
