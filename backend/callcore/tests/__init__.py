"""Tests of the core. A busy machine is slow: how long an example takes decides nothing."""

from hypothesis import settings

settings.register_profile("steady", deadline=None, print_blob=True)
settings.load_profile("steady")
