"""What holds for all tests: speed is measured by ./bench, so that a slow machine fails none of them."""

from hypothesis import settings

settings.register_profile("unhurried", deadline=None)
settings.load_profile("unhurried")
