"""The settings of the app with a cheap password hash: thousands of rounds guard real passwords, not test ones."""

from mellow_span.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
